package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** An operation becomes an address that answers JSON, in the browser: four actions to a tried answer. */
public class OfferPageTest extends FlowEditing {
    @Test
    public void anOperationIsOfferedAndAskedAtOnce() throws Exception {
        ProductClient client = product.client();
        browser.open("/contracts/1?operation=LookUpInstitution");
        browser.press("Offer to callers");
        browser.seeText("A flow is built, published there, and answers at once.");
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.seeText("LookUpInstitution answers JSON");
        browser.seeText("POST /serve/test/look-up-institution");
        browser.see("[aria-label=Request]")
                .sendKeys(
                        Keys.chord(Keys.CONTROL, "a"),
                        "{\"registrationNumber\": \"RG-10696\", \"requestedBy\": \"HC07\"}",
                        Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("record 1 of run");
        browser.seeText("\"registrationNumber\": \"RG-10696\"");

        // it is a flow like any other: its sample is what a caller would send
        browser.press("Open the flow");
        browser.seeText("what callers send");
        browser.keys("2");
        browser.seeText("LookUpInstitution request");
        browser.rowShows("}registrationNumber", "$input/registrationNumber");
        browser.press("Callers");
        browser.seeText("GET, POST /serve/test/look-up-institution");
        browser.seeText("revision 1 answers");
        browser.seeText("1 requests, 0 of them");
        browser.seeText("Requests a minute");
        browser.clickText("Read and try");
        browser.seeText("insuredLimit");
        browser.press("Send");
        browser.seeText("no-key");
        browser.clickText("Keys");
        browser.see("[aria-label='Requests a minute']").sendKeys("600");
        browser.see("[aria-label='Who gets the key']").sendKeys("partner", Keys.ENTER);
        browser.seeText("The key of partner is");
        browser.clickText("What was asked");
        browser.seeText("2 requests, 1 of them");
        browser.seeText("no key that counts");
        String keys = client.get("/api/triggers?flow="
                        + client.get("/api/flows?q=as%20JSON")
                                .get("items")
                                .get(0)
                                .get("id")
                                .asLong())
                .get("items")
                .get(0)
                .get("id")
                .asText();
        assertEquals(client.get("/api/triggers/" + keys + "/keys").size(), 2);
    }

    @Test
    public void whatCallersSendIsTakenFromASample() throws Exception {
        newBooking("Taken from a sample");
        browser.keys("1");
        browser.clickText("callers");
        browser.seeText("No field yet");
        browser.see("[aria-label='Sample of the input']")
                .sendKeys("{\"loan\": \"HC-1\", \"crates\": [{\"no\": \"1\", \"kilograms\": 73.5}]}");
        browser.press("Take its fields");
        browser.seeText("crates/kilograms");
        browser.until("its type is known", () -> browser.driver()
                .findElement(By.cssSelector("tr[data-row-key='crates/kilograms']"))
                .getText()
                .contains("decimal"));
        saved();
        browser.see("[aria-label='Sample of the input']")
                .sendKeys(
                        Keys.chord(Keys.CONTROL, "a"),
                        "{\"type\": \"object\", \"required\": [\"loan\"], \"properties\": {\"loan\": {\"type\": \"string\"},"
                                + " \"collect\": {\"type\": \"string\", \"format\": \"date\"}}}");
        browser.press("Take its fields");
        browser.until("the schema says what is required", () -> browser.driver()
                .findElement(By.cssSelector("[aria-label='loan is required']"))
                .isSelected());
        browser.until("a sample is made of it", () -> browser.see("[aria-label='Sample of the input']")
                .getAttribute("value")
                .contains("\"collect\" : \"2"));
        saved();
    }

    @Test
    public void anOperationIsOfferedByItsOwnContractAndThenDescribedFromItsFlow() {
        browser.open("/contracts/1?operation=LookUpInstitution");
        browser.press("Offer to callers");
        browser.clickText("SOAP, by the same contract");
        browser.see("[aria-label='Name of the flow']").sendKeys("In front of the register");
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.seeText("LookUpInstitution answers SOAP and JSON");
        browser.seeText("/serve/test/institution-register/register-port");
        browser.press("Keys and limits");

        browser.click("button.linkish.left");
        browser.seeText("the contract Institution Register");
        browser.see("[aria-label='SOAP address']").sendKeys(Keys.chord(Keys.CONTROL, "a"), Keys.DELETE);
        browser.pointAt(".ant-modal .ant-select-allow-clear");
        browser.click(".ant-modal .ant-select-clear");
        browser.see("[aria-label='Name of the operation']").sendKeys("FindInstitution");
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.until("it is saved", () -> browser.driver()
                .findElements(By.cssSelector(".ant-modal-footer"))
                .isEmpty());
        browser.open(browser.location().replaceFirst("https?://[^/]+", "").replace("/triggers", "/callers?show=try"));
        browser.seeText("As SOAP it answers at");
        String wsdl = (String) browser.driver()
                .executeAsyncScript("const done = arguments[0];"
                        + "const again = () => fetch('/serve/test/in-front-of-the-register?wsdl').then(a => a.text())"
                        + ".then(t => t.includes('FindInstitution') ? done(t) : setTimeout(again, 200)); again();");
        assertTrue(wsdl.contains("FindInstitutionResponse"), wsdl);
    }

    @Test
    public void peopleAskOnAPageAndByALink() throws Exception {
        ProductClient client = product.client();
        JsonNode offer = offered(client, "Who borrows");
        long trigger = offer.get("trigger").asLong();
        long flow = offer.get("flow").asLong();
        browser.open("/flows/" + flow + "/triggers");
        browser.click("button.linkish.left");
        browser.clickText("they type what is sent, or paste rows, and see what comes back");
        browser.see("[aria-label='Title of the page']").sendKeys("Who borrows?");
        browser.see("[aria-label='Label of registrationNumber']").sendKeys("Registration number");
        browser.see("[aria-label='Label of requestedBy']").sendKeys("Asked by");
        browser.click("[aria-label='More of requestedBy']");
        browser.see("[aria-label='Preset of requestedBy']").sendKeys("DESK");
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.until("it is saved", () -> browser.driver()
                .findElements(By.cssSelector(".ant-modal-footer"))
                .isEmpty());

        browser.open("/pages");
        browser.clickText("Who borrows?");
        browser.seeText("Nothing was asked yet");
        browser.press("Ask");
        browser.seeText("Registration number is missing");
        browser.keys("RG-10696", Keys.ENTER);
        browser.seeText("Lünbrück Gallery of Maps");
        browser.keys("RG-99999", Keys.ENTER);
        browser.until(
                "it failed",
                () -> browser.see("[aria-label='What came back']").getText().contains("failed"));
        // what came before stays
        browser.seeText("Lünbrück Gallery of Maps");

        browser.clickText("Many rows");
        browser.see("[aria-label='Pasted rows']")
                .sendKeys("Asked by;Registration number\nHC07;RG-10770\nHC07;RG-10511");
        browser.seeText("2 rows: Asked by, Registration number");
        browser.press("Ask 2 rows");
        browser.seeText("Velmere Textile Rooms");
        browser.seeText("Orlavik Museum of Tides");
        browser.press("CSV");
        Path file = files.resolve("Who borrows_.csv");
        browser.until("it is downloaded", () -> Files.exists(file));
        String csv = Files.readString(file);
        assertTrue(csv.contains("RG-10770") && csv.contains("Lünbrück Gallery of Maps"), csv);
        assertEquals(csv.lines().count(), 5);

        // by a link, signed out, on a telephone; what was typed is remembered where it was typed
        String key = client.post("/api/triggers/" + trigger + "/keys", Map.of("name", "front desk"))
                .get("key")
                .asText();
        browser.driver().manage().deleteAllCookies();
        browser.open("/ask/test/who-borrows#" + key);
        browser.seeText("Who borrows?");
        browser.wide(390);
        browser.see("[aria-label='Typed before']");
        browser.keys("RG-10770", Keys.ENTER);
        browser.seeText("Velmere Textile Rooms");
        assertEquals(browser.script("return document.documentElement.scrollWidth <= window.innerWidth"), Boolean.TRUE);
        client.send(
                "DELETE",
                "/api/triggers/" + trigger + "/keys/"
                        + client.get("/api/triggers/" + trigger + "/keys")
                                .get(1)
                                .get("id")
                                .asLong(),
                null,
                Map.of());
        browser.open("/pages");
        browser.open("/ask/test/who-borrows#" + key);
        browser.seeText("The link is not good any more");
        browser.wide(Browser.WIDTH);
        browser.signIn("ada", product.password());
    }

    @Test
    public void howCallersAreAnsweredIsSaidOnTheScreen() throws Exception {
        ProductClient client = product.client();
        JsonNode offer = offered(client, "Known institutions");
        long trigger = offer.get("trigger").asLong();
        String flow = "/flows/" + offer.get("flow").asLong();
        browser.open(flow + "/triggers");
        browser.click("button.linkish.left");
        browser.see("[aria-label='From memory']").sendKeys("60");
        browser.clickText("it is taken at once, and the answer asked for later");
        browser.see("[aria-label='Callers at once']").sendKeys(Keys.chord(Keys.CONTROL, "a"), "12");
        browser.press("Take a header as a field");
        browser.see("[aria-label='Header 1']").sendKeys("X-Desk");
        browser.see("[aria-label='Field of header 1']").sendKeys("requestedBy");
        browser.see("[aria-label='Origins']").sendKeys("https://desk.example", Keys.ENTER);
        browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
        browser.until("it is saved", () -> browser.driver()
                .findElements(By.cssSelector(".ant-modal-footer"))
                .isEmpty());
        JsonNode spec = client.get("/api/triggers?flow=" + offer.get("flow").asLong())
                .get("items")
                .get(0)
                .get("spec");
        assertEquals(spec.get("memorySeconds").asInt(), 60);
        assertEquals(spec.get("atOnce").asInt(), 12);
        assertTrue(spec.get("later").asBoolean());
        assertEquals(spec.get("headers").toString(), "[{\"header\":\"X-Desk\",\"field\":\"requestedBy\"}]");
        assertEquals(spec.get("origins").toString(), "[\"https://desk.example\"]");

        // a key is made good for less
        browser.open(flow + "/callers?show=keys");
        browser.see("[aria-label='Requests a minute of first']").sendKeys("30", Keys.TAB);
        browser.until("it is good for 30", () -> keys(client, trigger).contains("\"aMinute\":30"));

        // an answer has a header of its own
        browser.open(flow + "?stage=answer");
        browser.press("Add a header");
        browser.see("[aria-label='Name of header 1']").sendKeys("X-Institution", Keys.TAB);
        browser.see("[aria-label='Value of header 1']").sendKeys("$reply/registrationNumber", Keys.TAB);
        browser.until("it is kept", () -> file(client, offer).contains("X-Institution"));

        // who asks makes a run of the day, which is ended by hand
        client.send(
                "POST",
                offer.get("path").asText(),
                Map.of("registrationNumber", "RG-10696", "requestedBy", "DESK"),
                Map.of("X-Api-Key", offer.get("key").asText()));
        browser.open("/runs");
        browser.clickText("Known institutions");
        browser.press("End this run");
        browser.until("it is over", () -> run(client).equals("done"));
    }

    @Test
    public void aFlowTakesTheMessagesOfAQueueAndAnotherIsATarget() throws Exception {
        ProductClient client = product.client();
        try (OwnBroker own = new OwnBroker()) {
            own.known(client);
            JsonNode offer = offered(client, "Asked by a message");
            browser.open("/flows/" + offer.get("flow").asLong() + "/triggers");
            browser.press("Add a trigger");
            side("A message", 1);
            browser.choose("Broker", OwnBroker.ENDPOINT);
            browser.see("[aria-label=Queue]").sendKeys("asked");
            browser.see("[aria-label='Queue of answers']").sendKeys("found");
            browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
            browser.seeText("when a message comes to asked at Halewick broker");
            own.send("asked", "on-screen", "{\"registrationNumber\": \"RG-10696\", \"requestedBy\": \"HC07\"}");
            assertEquals(own.read("found", 1).get(0).correlation(), "on-screen");
            browser.open("/flows/" + offer.get("flow").asLong() + "/callers");
            browser.choose("Path", "the queue asked");
            browser.seeText("1 requests, 0 of them");

            browser.open("/datasets?add=folder");
            side("Queue", 1);
            browser.choose("Broker", OwnBroker.ENDPOINT);
            browser.see("[aria-label=Queue]").sendKeys("told");
            browser.click(By.cssSelector(".ant-modal-footer .ant-btn-primary"));
            browser.seeText("JSON messages to the queue told at Halewick broker");
            browser.seeText("Messages are sent, not kept here");
        }
    }

    private static JsonNode offered(ProductClient client, String name) throws IOException {
        return client.post(
                "/api/offers",
                Map.of(
                        "contract",
                        "Institution Register",
                        "operation",
                        "LookUpInstitution",
                        "environment",
                        "Test",
                        "name",
                        name));
    }

    private static String keys(ProductClient client, long trigger) {
        return told(client, "/api/triggers/" + trigger + "/keys");
    }

    private static String file(ProductClient client, JsonNode offer) {
        return told(client, "/api/flows/" + offer.get("flow").asLong());
    }

    private static String run(ProductClient client) {
        try {
            return client.get("/api/runs?q=Known%20institutions")
                    .get("items")
                    .get(0)
                    .get("state")
                    .asText();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    private static String told(ProductClient client, String path) {
        try {
            return client.get(path).toString();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }
}
