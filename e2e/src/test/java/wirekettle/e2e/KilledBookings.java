package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicInteger;

/** Runs that book twice for each loan at a desk of their own, and what must hold between its log and the ledger. */
abstract class KilledBookings extends KilledRuns {
    static final String SECOND = "second after ";

    private final AtomicInteger answers = new AtomicInteger();
    volatile boolean refusing;

    @Override
    Reply answer(String request) {
        boolean asks = request.contains("LookUpInstitution");
        String loan = request.replaceAll("(?s).*?loanReference>([^<]*)<.*", "$1");
        String remark = request.replaceAll("(?s).*?remark>([^<]*)<.*", "$1");
        if (!asks) {
            received.add(remark.startsWith(SECOND) ? loan + " " + remark : loan);
        }
        return new Reply(asks && refusing ? 503 : 200, asks ? asked() : booked(loan));
    }

    /** Never the same twice: a record that goes on must not ask again. */
    private String asked() {
        return envelope("<LookUpInstitutionResponse xmlns='urn:halewick:register:1'>"
                + "<registrationNumber>RG-10400</registrationNumber><name>answer " + answers.incrementAndGet()
                + "</name><status>active</status><address><street>3 Quay Lane</street><city>Aldersund</city>"
                + "<country>NV</country></address></LookUpInstitutionResponse>");
    }

    /** Returns a flow that books at the desk of this test, and writes what is booked. */
    long bookings(String name) throws Exception {
        JsonNode made = copy("Book transports", name);
        ObjectNode file = made.get("file").deepCopy();
        ObjectNode call = stage(file, "call");
        call.put("endpoint", "Own desk");
        ((ObjectNode) call.get("delivery")).put("atOnce", 8).putArray("failedWhen");
        ObjectNode again = call.deepCopy().put("id", "again").put("as", "second");
        field(again, "remark")
                .put("expression", "concat('" + SECOND + "', $asked/name)")
                .remove("wire");
        ObjectNode ask =
                stage((ObjectNode) flow("Check and book").get("file"), "lookup").deepCopy();
        ask.put("id", "ask").put("as", "asked").put("endpoint", "Own desk");
        ask.remove("lane");
        ((ObjectNode) ask.get("delivery")).putArray("failedWhen");
        ((ObjectNode) ask.get("delivery")).remove("memorySeconds");
        field(ask, "registrationNumber").put("constant", "RG-10400").remove("wire");
        ArrayNode stages = (ArrayNode) file.get("stages");
        int at = place(stages, "call");
        stages.insert(at + 1, ask);
        stages.insert(at + 2, again);
        client.post("/api/datasets", Map.of("name", name + " bookings", "kind", "csv"));
        client.post("/api/datasets", Map.of("name", name + " rejects", "kind", "csv"));
        ObjectNode write = stage(file, "write");
        write.put("dataset", name + " bookings").put("rows", "");
        write.putArray("columns")
                .addObject()
                .put("name", "loan")
                .put("label", "loan")
                .put("type", "string")
                .put("required", true);
        ((ArrayNode) write.get("columns"))
                .addObject()
                .put("name", "asked")
                .put("label", "asked")
                .put("type", "string")
                .put("required", true);
        ArrayNode fills = write.putArray("fills");
        fills.addObject().put("id", "w1").put("target", "loan").put("wire", "$loan/loan_no");
        fills.addObject().put("id", "w2").put("target", "asked").put("wire", "$asked/name");
        stages.remove(place(stages, "write") + 1);
        ((ObjectNode) file.at("/lane/rules/0/stages/0")).put("dataset", name + " rejects");
        client.send("PUT", "/api/flows/" + made.get("id"), file, Map.of("If-Match", "\"1\""));
        return made.get("id").asLong();
    }

    private static int place(ArrayNode stages, String id) {
        for (int i = 0; i < stages.size(); i++) {
            if (stages.get(i).get("id").asText().equals(id)) {
                return i;
            }
        }
        throw new AssertionError("no stage " + id);
    }

    private static ObjectNode field(ObjectNode call, String name) {
        for (JsonNode fill : call.get("fills")) {
            if (fill.get("target").asText().endsWith("}" + name)) {
                ((ObjectNode) fill).remove("whenEmpty");
                return (ObjectNode) fill;
            }
        }
        throw new AssertionError("no fill of " + name);
    }

    @Override
    void balance(String path, JsonNode run) throws Exception {
        List<JsonNode> lines = new ArrayList<>();
        client.get(path + "/records?size=500").get("items").forEach(lines::add);
        assertEquals(lines.size(), 109, "every record has its line");
        assertEquals(run.get("ended").asInt(), 109);
        assertEquals(run.get("read").asInt(), 109);
        List<String> first =
                received.stream().filter(each -> !each.contains(SECOND)).toList();
        Map<String, String> second = new HashMap<>();
        received.stream()
                .filter(each -> each.contains(SECOND))
                .map(each -> each.split(" " + SECOND))
                .forEach(each -> assertNull(second.put(each[0], each[1]), "sent twice: " + each[0]));
        Set<String> came = new HashSet<>(first);
        assertEquals(first.size(), came.size(), "nothing came twice: " + received);
        Set<String> done = keys(lines, "done");
        Set<String> doubtful = keys(lines, "in-doubt");
        Set<String> rejected = keys(lines, "rejected");
        assertEquals(done.size() + doubtful.size() + rejected.size(), 109);
        assertEquals(run.get("done").asInt(), done.size());
        assertEquals(run.get("inDoubt").asInt(), doubtful.size());
        assertTrue(came.containsAll(done) && second.keySet().containsAll(done), "what is done came");
        came.addAll(second.keySet());
        came.removeAll(done);
        came.removeAll(doubtful);
        assertEquals(came, Set.of(), "what came without an answer is in doubt; " + of(lines, came));
        String results = client.send("GET", path + "/results", null, Map.of()).text();
        Map<String, String> rows = new HashMap<>();
        results.lines()
                .skip(1)
                .map(row -> row.split(","))
                .forEach(row -> assertNull(rows.put(row[0], row[1]), "each row once: " + row[0]));
        assertEquals(rows.keySet(), done, "the file has what is done");
        rows.forEach((loan, said) -> assertEquals(second.get(loan), said, "what was asked before the second change"));
    }

    private static List<JsonNode> of(List<JsonNode> lines, Set<String> keys) {
        return lines.stream()
                .filter(line -> keys.contains(line.path("key").asText()))
                .toList();
    }

    private static Set<String> keys(List<JsonNode> lines, String ended) {
        Set<String> keys = new HashSet<>();
        for (JsonNode line : lines) {
            if (line.get("ended").asText().equals(ended)) {
                keys.add(line.get("key").asText());
            }
        }
        return keys;
    }
}
