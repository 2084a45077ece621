package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.util.HashMap;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** The bench: a good call by keyboard, sheet and text in step, what is sent and kept when things go wrong. */
public class BenchTest extends BrowserTest {
    private ProductClient client;

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", true);
        client = product.client();
        browser.signIn("ada", product.password());
    }

    @BeforeMethod
    public void everythingWorks() {
        world.registerKnobs().outage = "none";
    }

    private void open() {
        browser.open("/bench/1?port=RegisterPort&operation=LookUpInstitution");
        browser.until("the request is ready", () -> value("requestedBy").equals("text"));
    }

    private String value(String field) {
        return browser.see("input[aria-label=" + field + "]").getAttribute("value");
    }

    @Test
    public void aFirstGoodCallTakesThreeKeystrokesAfterTheNumber() {
        browser.open("/contracts/1");
        browser.press("Try");
        browser.until("the request is ready", () -> value("requestedBy").equals("text"));
        browser.see("input[aria-label=registrationNumber]").sendKeys(Keys.chord(Keys.CONTROL, "a"), "RG-10696");
        side("Text", 1);
        browser.until(
                "the text follows",
                () -> browser.see("textarea").getAttribute("value").contains("RG-10696"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        browser.seeText("Lünbrück Gallery of Maps");
        side("Headers", 1);
        browser.seeText("content-type");
        side("Sheet", 2);
        browser.until(
                "the reply is a sheet",
                () -> browser.driver().findElements(By.cssSelector("[data-reply] [role=treeitem]")).stream()
                        .anyMatch(row -> row.getText().contains("climateClass")
                                && row.getText().endsWith("A")));
    }

    @Test
    public void theSheetFollowsTheEditedTextAndSaysWhatHasNoRow() {
        open();
        side("Text", 1);
        WebElement text = browser.see("textarea");
        String before = text.getAttribute("value");
        text.sendKeys(Keys.chord(Keys.CONTROL, "a"));
        text.sendKeys(before.replace(">text<", ">HALEWICK<")
                .replace("</n1:LookUpInstitution>", "<n1:colour>red</n1:colour></n1:LookUpInstitution>"));
        browser.seeText("colour is no field of LookUpInstitution");
        side("Sheet", 1);
        browser.until("the sheet follows", () -> value("requestedBy").equals("HALEWICK"));
        // a value that is not valid is said in its row
        browser.see("input[aria-label=insuredValue]").sendKeys("a lot");
        browser.until(
                "it is said",
                () -> browser.text().contains("1 problem") && browser.text().contains("no decimal"));
        // and beside the text
        side("Text", 1);
        browser.until(
                "it is said there too",
                () -> browser.driver().findElements(By.cssSelector("textarea")).size() == 1
                        && browser.text().contains("insuredValue")
                        && browser.text().contains("no decimal"));
    }

    @Test
    public void whatWasTypedLastIsWhatIsSentHoweverFastOneSends() {
        open();
        browser.see("input[aria-label=registrationNumber]")
                .sendKeys(Keys.chord(Keys.CONTROL, "a"), "RG-10696", Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        browser.seeText("Lünbrück Gallery of Maps");
    }

    private JsonNode ended(JsonNode call) {
        JsonNode[] state = {call};
        Until.until("the call ends", () -> {
            try {
                state[0] = client.get("/api/bench/calls/" + call.get("id").asLong());
            } catch (IOException e) {
                throw new AssertionError(e);
            }
            return !state[0].get("state").asText().equals("running");
        });
        return state[0];
    }

    private Map<String, Object> request(long contract, String port, String operation, String endpoint, String text) {
        return new HashMap<>(Map.of(
                "contract",
                contract,
                "port",
                port,
                "operation",
                operation,
                "endpoint",
                endpoint,
                "environment",
                "Test",
                "text",
                text));
    }

    @Test
    public void aTextThatIsNoXmlIsSentOnPurposeAndKeptAsTyped() throws Exception {
        String typed = "<Envelope>\n  <oops";
        JsonNode call = ended(client.post(
                "/api/bench/calls", request(1, "RegisterPort", "LookUpInstitution", "Institution Register", typed)));
        assertEquals(call.get("state").asText(), "failed");
        assertEquals(call.get("status").asInt(), 500);
        assertEquals(call.get("request").asText(), typed);
        JsonNode read = client.post(
                "/api/bench/fills",
                Map.of("contract", 1, "port", "RegisterPort", "operation", "LookUpInstitution", "text", typed));
        assertEquals(read.get("line").asInt(), 2);
        assertTrue(read.get("problems").get(0).asText().startsWith("line 2 column"), read.toString());
    }

    @Test
    public void whatChangesDataAsksFirst() throws Exception {
        String text = client.get("/api/contracts/2/example?operation=BookCrate&message=request&complete=false")
                .get("text")
                .asText();
        Map<String, Object> asked = request(2, "VanlinePort", "BookCrate", "Vanline Desk", text);
        ProductClient.Answer refused = client.send("POST", "/api/bench/calls", asked, Map.of());
        assertEquals(refused.status(), 409);
        assertTrue(refused.text().contains("“Vanline Desk” in Test"), refused.text());
        asked.put("confirmed", true);
        JsonNode call = ended(client.post("/api/bench/calls", asked));
        assertEquals(call.get("state").asText(), "done", call.toString());
        assertTrue(call.get("values").toString().contains("VL/text"), call.toString());
        assertEquals(world.vanline().invalidRequests().size(), 0);
    }

    @Test
    public void aServiceThatHangsIsCancelledAndTheBenchStaysUsable() throws Exception {
        open();
        world.registerKnobs().outage = "hang";
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Waiting for");
        browser.press("Cancel");
        browser.seeText("the call was cancelled");
        world.registerKnobs().outage = "page";
        browser.press("Send in Test");
        browser.seeText("HTTP 502");
        world.registerKnobs().outage = "none";
        browser.press("Send in Test");
        browser.seeText("UnknownInstitution");
    }

    @Test
    public void callsAreNamedFoundAndOpenedAgain() throws Exception {
        String text = client.get("/api/contracts/1/example?operation=LookUpInstitution&message=request&complete=false")
                .get("text")
                .asText();
        JsonNode call = ended(client.post(
                "/api/bench/calls",
                request(
                        1,
                        "RegisterPort",
                        "LookUpInstitution",
                        "Institution Register",
                        text.replace(">text<", ">DESK9<"))));
        client.put("/api/bench/calls/" + call.get("id").asLong(), Map.of("name", "the ninth desk"));
        String at = "/api/bench/calls?contract=1&port=RegisterPort&operation=LookUpInstitution";
        assertEquals(client.get(at + "&q=ninth").get("total").asInt(), 1);
        assertEquals(client.get(at + "&q=DESK9").get("total").asInt(), 1);
        assertEquals(client.get(at + "&size=1").get("items").size(), 1);
        open();
        browser.see("input[placeholder='Find in calls']").sendKeys("ninth");
        browser.until(
                "one call fits",
                () -> browser.driver()
                                .findElements(By.cssSelector("[aria-label=Calls] [role=listitem]"))
                                .size()
                        == 1);
        browser.see("[aria-label=Calls] [role=listitem] span").click();
        browser.until("it is open again", () -> value("requestedBy").equals("DESK9"));
        client.send("DELETE", "/api/bench/calls/" + call.get("id").asLong(), null, Map.of());
        assertEquals(client.get(at + "&q=ninth").get("total").asInt(), 0);
        assertFalse(client.send("GET", "/api/bench/calls/" + call.get("id").asLong(), null, Map.of())
                .text()
                .contains("DESK9"));
    }

    @Test
    public void twoCallsAreComparedByStructureAndAFieldIsIgnored() throws Exception {
        String text = client.get("/api/contracts/1/example?operation=LookUpInstitution&message=request&complete=false")
                .get("text")
                .asText();
        long[] ids = new long[2];
        String[] numbers = {"RG-10696", "RG-10400"};
        for (int i = 0; i < 2; i++) {
            String its = text.replaceAll("(<n1:registrationNumber>)[^<]*<", "$1" + numbers[i] + "<");
            ids[i] = ended(client.post(
                            "/api/bench/calls",
                            request(1, "RegisterPort", "LookUpInstitution", "Institution Register", its)))
                    .get("id")
                    .asLong();
        }
        JsonNode all = client.get("/api/bench/comparison?one=" + ids[0] + "&other=" + ids[1]);
        assertEquals(all.get("request").size(), 1, all.toString());
        assertTrue(all.get("reply").toString().contains("LookUpInstitutionResponse/name"), all.toString());
        JsonNode fewer = client.get(
                "/api/bench/comparison?one=" + ids[0] + "&other=" + ids[1] + "&ignore=registrationNumber&ignore=name");
        assertEquals(fewer.get("request").size(), 0);
        assertEquals(fewer.get("reply").size(), all.get("reply").size() - 2, fewer.toString());
        open();
        browser.click(By.xpath(listed(ids[1]) + "//span"));
        browser.click(By.xpath(listed(ids[0]) + "//button[.='compare']"));
        browser.seeText(" and call " + ids[1]);
        browser.press("ignore");
        browser.seeText("ignoring ");
    }

    /** Returns where a call stands in the list: others of other tests are there too. */
    private static String listed(long call) {
        return "//*[@role='listitem'][.//input[@aria-label='Name of call " + call + "']]";
    }
}
