package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.testng.annotations.Test;

/**
 * The server killed while papers are handed in by batches: what the desk accepted is in the ledger as done or in doubt,
 * what it refused as rejected, and no paper it accepted came twice.
 */
public class KilledBatchTest extends KilledRuns {
    private static final Pattern REFERENCE = Pattern.compile("<(?:\\w+:)?reference>([^<]*)<");

    private volatile boolean lenient;

    @Override
    Reply answer(String request) {
        List<String> papers = REFERENCE
                .matcher(request)
                .results()
                .map((MatchResult each) -> each.group(1))
                .toList();
        boolean whole = !lenient && papers.stream().anyMatch(each -> each.endsWith("0"));
        StringBuilder lines = new StringBuilder();
        for (String paper : papers) {
            boolean refused = !lenient && Math.floorMod(paper.hashCode(), 7) == 0;
            received.add((whole || refused ? "refuse " : "accept ") + paper);
            if (!paper.endsWith("5")) {
                lines.append("<paper><reference>")
                        .append(paper)
                        .append("</reference><outcome>")
                        .append(refused ? "refused" : "accepted")
                        .append("</outcome><clearanceNumber>CL-")
                        .append(paper)
                        .append("</clearanceNumber></paper>");
            }
        }
        return whole
                ? new Reply(
                        500,
                        envelope("<s:Fault><faultcode>s:Server</faultcode><faultstring>no</faultstring></s:Fault>"))
                : new Reply(
                        200,
                        envelope("<SubmitPapersResponse xmlns='urn:halewick:clearance'>" + lines
                                + "</SubmitPapersResponse>"));
    }

    /** Returns the demo's flow in small batches, handing in at the desk of this test. */
    private long papers(String name) throws Exception {
        JsonNode made = copy("Clear papers in batches", name);
        ObjectNode file = made.get("file").deepCopy();
        ((ObjectNode) file.at("/stages/3")).put("most", 6);
        ((ObjectNode) file.at("/stages/3/stages/0")).put("endpoint", "Own desk");
        client.send("PUT", "/api/flows/" + made.get("id"), file, Map.of("If-Match", "\"1\""));
        return made.get("id").asLong();
    }

    @Test
    public void everyPaperIsAcceptedRefusedOrInDoubtWhereverTheServerIsKilled() throws Exception {
        killedOften(papers("Killed papers"));
    }

    /** What was refused is handed in again when it is sent again; the others of its batch are not. */
    @Test
    public void onlyWhatWasRefusedIsHandedInAgain() throws Exception {
        received.clear();
        Map<String, Object> asked = Map.of("environment", "Test", "confirmed", true);
        JsonNode run = client.post("/api/flows/" + papers("Refused papers") + "/runs", asked);
        String path = "/api/runs/" + run.get("id").asLong();
        Set<String> rejected = keys(path, "rejected");
        assertTrue(rejected.size() > 10, rejected.toString());
        lenient = true;
        int before = received.size();
        JsonNode again = client.post(path + "/resend", Map.of());
        ended("/api/runs/" + again.get("id").asLong(), "run");
        lenient = false;
        List<String> anew = List.copyOf(received).subList(before, received.size());
        Set<String> sent = new HashSet<>();
        anew.forEach(each -> sent.add(each.substring(each.indexOf(' ') + 1)));
        assertEquals(sent, rejected);
        assertEquals(anew.size(), rejected.size(), "each once");
    }

    private Set<String> keys(String path, String end) throws Exception {
        ended(path, "run");
        Set<String> keys = new HashSet<>();
        client.get(path + "/records?size=500&ended=" + end)
                .get("items")
                .forEach(line -> keys.add(line.get("key").asText()));
        return keys;
    }

    @Override
    void balance(String path, JsonNode run) throws Exception {
        List<JsonNode> lines = new ArrayList<>();
        client.get(path + "/records?size=500").get("items").forEach(lines::add);
        assertEquals(lines.size(), 109, "every record has its line");
        List<String> accepted =
                received.stream().filter(each -> each.startsWith("accept ")).toList();
        Set<String> once = new HashSet<>(accepted);
        assertEquals(once.size(), accepted.size(), "nothing that was accepted came twice");
        for (JsonNode line : lines) {
            String paper = line.get("key").asText();
            switch (line.get("ended").asText()) {
                case "done" -> assertTrue(once.contains("accept " + paper), paper + " was accepted");
                case "rejected" -> assertFalse(once.contains("accept " + paper), paper + " was refused");
                case "left-out" -> assertFalse(received.contains("accept " + paper), paper);
                default -> assertEquals(line.get("ended").asText(), "in-doubt");
            }
        }
        String results = client.send("GET", path + "/results", null, Map.of()).text();
        List<String> rows =
                results.lines().skip(1).map(row -> row.split(",")[0]).toList();
        assertEquals(rows.size(), run.get("done").asInt(), "the file has what is done, once");
        assertEquals(new HashSet<>(rows).size(), rows.size());
    }
}
