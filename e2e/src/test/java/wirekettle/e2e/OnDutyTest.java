package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.ServerSocket;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.MailSink;
import wirekettle.demo.ProductClient;

/** From test to live, on a clock, with somebody told; and the morning after, in the browser. */
public class OnDutyTest extends BrowserTest {
    private static final String NIGHT = "night@halewick.invalid";
    private MailSink mails;
    private ProductClient client;

    @Override
    Map<String, String> settings() {
        return Map.of(
                "WIREKETTLE_MAIL_HOST", "127.0.0.1",
                "WIREKETTLE_MAIL_PORT", Integer.toString(mails.port()),
                "WIREKETTLE_ALERT_SECONDS", "1");
    }

    @BeforeClass
    public void start() throws Exception {
        int port;
        try (ServerSocket any = new ServerSocket(0)) {
            port = any.getLocalPort();
        }
        mails = new MailSink(port);
        begin("-Xmx512m", true);
        client = product.client();
        client.put(
                "/api/endpoints",
                Map.of("name", "Institution Register", "addresses", Map.of("Live", world.address("register"))));
        browser.signIn("ada", product.password());
    }

    @AfterClass(alwaysRun = true)
    public void closeMails() {
        mails.close();
    }

    private JsonNode get(String path) {
        try {
            return client.get(path);
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    private void type(String label, String text) {
        WebElement field = browser.see("[aria-label='" + label + "']");
        field.sendKeys(Keys.chord(Keys.CONTROL, "a"), text);
    }

    private void confirm(String text) {
        browser.settle();
        browser.click(By.xpath("//div[contains(@class,'ant-modal')]//button[contains(normalize-space(.), '" + text
                + "') and contains(@class,'ant-btn-color')]"));
    }

    @Test
    public void aFlowGoesLiveByComparingOnAClockAndItsAbsenceIsMailed() throws Exception {
        JsonNode flow = get("/api/flows/1");
        ProductClient.Answer first = client.send(
                "POST",
                "/api/flows/1/publications",
                Map.of("environment", "Live", "revision", flow.get("revision").asInt()),
                Map.of("If-Match", "\"0\""));
        assertEquals(first.status(), 200, first.text());
        ObjectNode file = flow.get("file").deepCopy();
        file.put("runbook", "Ring the register before seven.");
        ((ObjectNode) file.get("stages").get(1).get("fills").get(1)).put("constant", "NIGHT DESK");
        int next = new ObjectMapper()
                .readTree(client.send(
                                "PUT",
                                "/api/flows/1",
                                file,
                                Map.of("If-Match", flow.get("revision").asText()))
                        .body())
                .get("revision")
                .asInt();

        browser.open("/flows/1/alerts");
        browser.press("Add a rule");
        browser.choose("Kind of rule", "did not happen by a time");
        browser.choose("Environment of the rule", "Live");
        String by = Instant.now()
                .plus(1, ChronoUnit.MINUTES)
                .atZone(ZoneOffset.UTC)
                .toLocalTime()
                .truncatedTo(ChronoUnit.MINUTES)
                .toString();
        type("By", by);
        browser.see("[aria-label='Mail to']").sendKeys(NIGHT, Keys.ENTER);
        browser.choose("Zone", "UTC");
        confirm("Add");
        browser.seeText("not done by " + by);

        browser.open("/flows/1/publish?environment=Live");
        browser.seeText("What changes from revision " + (next - 1) + " to " + next);
        browser.seeText("NIGHT DESK");
        browser.press("Publish revision " + next + " in Live");
        confirm("Publish in Live");
        browser.seeText("Nothing differs.");
        assertEquals(get("/api/flows/1/publications").get(0).get("revision").asInt(), next);

        browser.open("/flows/1/triggers");
        browser.press("Add a trigger");
        browser.choose("Environment of the trigger", "Live");
        type("Cron", "15 5 * * mon-fri");
        browser.seeText("Monday to Friday at 05:15 (UTC)");
        confirm("Add");
        until(
                "the trigger is kept",
                () -> get("/api/triggers?flow=1").get("total").asInt() == 1);
        browser.seeText("revision " + next);
        JsonNode trigger = get("/api/triggers?flow=1").get("items").get(0);
        assertEquals(trigger.get("spec").get("cron").asText(), "15 5 * * mon-fri");
        browser.open("/");
        browser.seeText("In force");
        browser.seeText("Next");

        until("the absence is mailed", () -> mails.mails().stream()
                .anyMatch(each -> each.subject().contains("did not happen in Live")));
        assertTrue(
                mails.mails().get(0).text().contains("Ring the register before seven."),
                mails.mails().toString());
        browser.open("/");
        browser.seeText("did not happen in Live");
        browser.open("/alerts");
        browser.press("Look after it");
        confirm("I look after it");
        browser.seeText("Nothing waits for somebody to look after it.");
    }

    @Test
    public void aCauseIsCorrectedAndSentAgain() {
        JsonNode wrong = get("/api/runs/1/corrections?cause=UnknownInstitution&size=100");
        int count = wrong.get("total").asInt();
        assertTrue(count > 0, wrong.toString());
        browser.open("/runs/1/correct?cause=UnknownInstitution");
        browser.seeText(wrong.get("items").get(0).get("key").asText());
        browser.press("Replace in many");
        browser.choose("Field", "institution_no");
        type("Replace by", "RG-10696");
        confirm("Replace");
        browser.seeText(count + " records changed");
        String key = wrong.get("items").get(0).get("key").asText();
        // what the flow would say of it is said while it is typed
        WebElement cell = browser.see("[aria-label='institution_no of " + key + "']");
        cell.sendKeys(Keys.chord(Keys.CONTROL, "a"), Keys.BACK_SPACE);
        browser.seeText("the record has no value for it");
        cell.sendKeys(Keys.ESCAPE);
        browser.until("the cell shows it", () -> "RG-10696"
                .equals(browser.see("[aria-label='institution_no of " + key + "']")
                        .getAttribute("value")));
        browser.press("Send " + count + " again");
        confirm("Send " + count + " again");
        browser.seeText("sends again what failed in");
        until("it has ended", () -> get("/api/runs?size=50").get("items").findValues("originRun").stream()
                .anyMatch(each -> each.asLong() == 1));
        for (JsonNode run : get("/api/runs?size=50").get("items")) {
            if (run.hasNonNull("originRun")) {
                long id = run.get("id").asLong();
                until("it is done", () -> get("/api/runs/" + id)
                        .get("run")
                        .get("state")
                        .asText()
                        .equals("done"));
                assertEquals(get("/api/runs/" + id).get("run").get("done").asInt(), count);
            }
        }
        browser.open("/records?key=" + key);
        browser.seeText("sent again in");
    }

    @Test
    public void whatIsInDoubtIsResolvedAndTheRunsPlotsAreThere() throws Exception {
        long id = client.post("/api/flows/4/runs", Map.of("environment", "Test", "confirmed", true))
                .get("id")
                .asLong();
        until(
                "it has ended",
                () -> get("/api/runs/" + id).get("run").get("state").asText().equals("done"));
        browser.open("/runs/" + id);
        browser.seeText("Slowest records");
        browser.until(
                "both plots are drawn",
                () -> browser.driver()
                                .findElements(By.cssSelector("section[aria-label='over time'] canvas"))
                                .size()
                        == 2);
        browser.press("Resolve 5 in doubt");
        browser.clickText("All 5 are done");
        browser.see("[aria-label='Reason']").sendKeys("seen at the desk");
        confirm("It is done");
        until(
                "nothing is in doubt any more",
                () -> get("/api/runs/" + id).get("doubtful").asInt() == 0);
        browser.clickText("Correct 11");
        browser.seeText("held back behind its key");
    }
}
