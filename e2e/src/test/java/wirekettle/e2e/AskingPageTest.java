package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.util.Map;
import org.openqa.selenium.Keys;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** What became of a change in doubt: the rule that asks is built by keyboard, and asked from the record's page. */
public class AskingPageTest extends KeyboardBuilding {
    private ProductClient client;

    private JsonNode get(String path) {
        try {
            return client.get(path);
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    private long copyOfCheckAndBook(String name) throws IOException {
        ObjectNode file = get("/api/flows/4").get("file").deepCopy();
        file.put("name", name);
        return client.post("/api/flows", Map.of("name", name, "file", file))
                .get("id")
                .asLong();
    }

    @Test
    public void aRuleThatAsksIsBuiltByKeyAndARecordIsAskedAbout() throws Exception {
        client = product.client();
        long flow = copyOfCheckAndBook("Booked, and asked about");
        browser.open("/flows/" + flow);
        browser.seeText("Booked, and asked about");
        line("Call BookTransport");
        browser.seeText("BookTransport request");
        add("ask what became of it");
        browser.seeText("is in doubt");
        fields();
        into("Done when", "$found/status != ''");
        browser.leaveField();
        // what later stages use of the reply is offered as a column
        column("reference", "$found/reference");
        saved();
        line("Call no operation yet");
        fields();
        pick("Operation", "TrackTransport");
        browser.leaveField();
        browser.seeText("TrackTransport request");
        fill("}reference", "VD-700100");
        saved();
        assertEquals(problems(), "0");

        browser.keys("r");
        browser.seeText("BookTransport changes data");
        browser.keys(Keys.ENTER);
        browser.until("the run page is shown", () -> browser.location().startsWith("/runs/"));
        String path = "/api" + browser.location();
        until("it is done", () -> get(path).get("run").get("state").asText().equals("done"));
        int doubtful = get(path).get("doubtful").asInt();
        assertTrue(doubtful > 1, "some are in doubt");
        long ordinal = get(path + "/records?ended=in-doubt")
                .get("items")
                .get(0)
                .get("ordinal")
                .asLong();
        String run = browser.location();
        browser.open(run + "?record=" + ordinal);
        browser.press("Ask what became of it");
        browser.until("it goes on in another run", () -> !browser.location().startsWith(run));
        String one = "/api" + browser.location();
        until("that is done", () -> get(one).get("run").get("state").asText().equals("done"));
        assertEquals(get(one).get("run").get("done").asInt(), 1, get(one).toString());
        assertEquals(get(path).get("doubtful").asInt(), doubtful - 1);

        browser.open(run);
        browser.press("Resolve " + (doubtful - 1) + " in doubt");
        browser.clickText("Ask what became of " + (doubtful - 1));
        until("nothing is in doubt", () -> get(path).get("doubtful").asInt() == 0);
        JsonNode row = get("/api/runs?flow=" + flow).get("items").get(0);
        String last = "/api/runs/" + row.get("id").asLong();
        until(
                "the last is done",
                () -> get(last).get("run").get("state").asText().equals("done"));
        assertEquals(get(last).get("run").get("done").asInt(), doubtful - 1);
    }
}
