package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.Test;

/**
 * A desk that can be asked what it has booked: a run that was killed asks by itself, and of what was lost on the way it
 * is asked afterwards. Nothing comes twice, and only what the desk contradicts itself about is left to a person.
 */
public class KilledAskingTest extends KilledRuns {
    private static final String V = "/{urn:halewick:vanline:2}";
    private static final String ODD = "odd";

    /** Which part of the crates is lost on the way: one in three, half of it before the desk has seen them. */
    private volatile boolean losing;

    @Override
    Reply answer(String request) {
        String v = " xmlns='urn:halewick:vanline:2'>";
        if (request.contains("OpenDay")) {
            return new Reply(200, envelope("<OpenDayResponse" + v + "<day>DAY-1</day></OpenDayResponse>"));
        }
        if (request.contains("CloseDay")) {
            return new Reply(200, envelope("<CloseDayResponse" + v + "<status>closed</status></CloseDayResponse>"));
        }
        if (request.contains("TrackTransport")) {
            String crate = request.replaceAll("(?s).*?reference>([^<]*)<.*", "$1");
            String status = crate.endsWith("-3") && losing ? ODD : received.contains(crate) ? "booked" : "unknown";
            return new Reply(
                    200,
                    envelope("<TrackTransportResponse" + v + "<reference>" + crate + "</reference><status>" + status
                            + "</status></TrackTransportResponse>"));
        }
        String crate = request.replaceAll("(?s).*?number>([^<]*)<.*", "$1");
        int fate = losing ? Math.floorMod(crate.hashCode(), 6) : 5;
        if (fate != 0) {
            received.add(crate);
        }
        return fate < 2
                ? null
                : new Reply(
                        200,
                        envelope("<BookCrateResponse" + v + "<reference>" + crate + "</reference><label>VL/" + crate
                                + "</label></BookCrateResponse>"));
    }

    /** Returns the demo's flow that books crate by crate, at the desk of this test, with a rule that asks. */
    private long asking(String name) throws Exception {
        JsonNode made = copy("Book loans, whole way", name);
        ObjectNode file = made.get("file").deepCopy();
        ObjectNode book = (ObjectNode) file.at("/stages/3/stages/0");
        book.put("endpoint", "Own desk").remove("undo");
        ((ObjectNode) file.at("/before/0")).put("endpoint", "Own desk");
        ((ObjectNode) file.at("/after/stages/0")).put("endpoint", "Own desk");
        ((ObjectNode) file.at("/stages/3/gather")).put("whenSomeFail", "reject");
        ObjectNode rule = book.putObject("lane")
                .putArray("rules")
                .addObject()
                .put("id", "ask")
                .put("then", "ask");
        rule.putObject("outcomes").put("done", "$found/status = 'booked'").put("notDone", "$found/status = 'unknown'");
        rule.putArray("columns").addObject().put("name", "label").put("type", "string");
        rule.putArray("fills")
                .addObject()
                .put("id", "a1")
                .put("target", "label")
                .put("expression", "concat('VL/', $found/reference)");
        ObjectNode find =
                rule.putArray("stages").addObject().put("verb", "Call").put("id", "find");
        for (String same : List.of("contract", "service", "port", "endpoint")) {
            find.set(same, book.get(same));
        }
        find.put("operation", "TrackTransport").put("as", "found");
        find.putArray("fills")
                .addObject()
                .put("id", "f1")
                .put("target", V + "TrackTransport" + V + "reference")
                .put("wire", "$crate/crate_no");
        find.set("delivery", ((ObjectNode) book.get("delivery").deepCopy()).put("effect", "reads"));
        client.send("PUT", "/api/flows/" + made.get("id"), file, Map.of("If-Match", "\"1\""));
        return made.get("id").asLong();
    }

    @Test
    public void aRunThatGoesOnAsksByItself() throws Exception {
        losing = false;
        killedOften(asking("Killed, and asked"));
    }

    @Override
    void balance(String path, JsonNode run) throws Exception {
        assertEquals(run.get("inDoubt").asInt(), 0, run.toString());
        assertEquals(run.get("done").asInt() + run.get("leftOut").asInt(), 109, run.toString());
        assertEquals(new HashSet<>(received).size(), received.size(), "nothing came twice");
        String results = client.send("GET", path + "/results", null, Map.of()).text();
        assertEquals(results.lines().count() - 1, run.get("done").asLong());
    }

    @Test
    public void whatWasLostIsAskedAboutOnDemand() throws Exception {
        received.clear();
        losing = true;
        long flow = asking("Asked afterwards");
        JsonNode run = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
        String path = "/api/runs/" + run.get("id").asLong();
        JsonNode lost = ended(path, "run");
        int doubtful = lost.get("inDoubt").asInt();
        assertTrue(doubtful > 10, lost.toString());
        assertEquals(client.get(path + "/resendable").get("asks").asInt(), doubtful);
        assertEquals(
                client.send("POST", path + "/resend", Map.of(), Map.of()).status(), 409, "doubt is never sent again");
        JsonNode again = finished(path);
        // what is lost once more is asked about once more
        String second = "/api/runs/" + again.get("id").asLong();
        losing = false;
        JsonNode last = again.get("inDoubt").asInt() == 0 ? again : finished(second);
        assertEquals(last.get("inDoubt").asInt(), 0, last.toString());
        assertEquals(client.get(path).get("doubtful").asInt(), 0);
        assertEquals(client.get(second).get("doubtful").asInt(), 0);
        Set<String> once = new HashSet<>(received);
        assertEquals(once.size(), received.size(), "nothing came twice");
        JsonNode all = ended(path, "run");
        assertEquals(all.get("inDoubt").asInt(), doubtful, "a run's ends never change");
        int done = all.get("done").asInt()
                + again.get("done").asInt()
                + (last == again ? 0 : last.get("done").asInt());
        assertEquals(done + all.get("leftOut").asInt(), 109, "each is done once");
    }

    private JsonNode finished(String path) throws Exception {
        JsonNode started = client.post(path + "/resend", Map.of("doubtful", true));
        return ended("/api/runs/" + started.get("id").asLong(), "run");
    }

    @Test
    public void whatTheAnswerContradictsWaitsForAPerson() throws Exception {
        received.clear();
        losing = true;
        long flow = asking("Contradicted");
        JsonNode made = client.get("/api/flows/" + flow);
        ObjectNode file = made.get("file").deepCopy();
        ((ObjectNode) file.at("/stages/3/stages/0/lane/rules/0/outcomes")).put("conflicting", "$found/status ne ''");
        client.send("PUT", "/api/flows/" + flow, file, Map.of("If-Match", "\"2\""));
        JsonNode run = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
        String path = "/api/runs/" + run.get("id").asLong();
        int doubtful = ended(path, "run").get("inDoubt").asInt();
        JsonNode again = finished(path);
        assertEquals(again.get("inDoubt").asInt(), doubtful, "all of them are left to a person");
        // crates of these loans that were not begun may be booked beside the one that is asked about
        assertEquals(new HashSet<>(received).size(), received.size(), "and nothing is sent once more");
        String second = "/api/runs/" + again.get("id").asLong();
        JsonNode line =
                client.get(second + "/records?ended=in-doubt").get("items").get(0);
        assertTrue(line.get("message").asText().contains("a person has to look"), line.toString());
        client.post(second + "/settlements", Map.of("what", "done", "reason", "their clerk says so"));
        assertEquals(client.get(second).get("doubtful").asInt(), 0);
        assertEquals(
                client.send("POST", second + "/resend", Map.of("doubtful", true), Map.of())
                        .status(),
                409);
    }
}
