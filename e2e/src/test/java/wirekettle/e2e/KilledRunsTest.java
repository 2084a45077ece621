package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertThrows;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.Test;

/**
 * The server killed in the middle of runs that change data, at random moments, and started again. The service keeps a
 * log of its own: nothing comes twice, nothing is missing, and what has no answer is in doubt.
 */
public class KilledRunsTest extends KilledRuns {
    private static final String SECOND = "second after ";

    private final AtomicInteger answers = new AtomicInteger();
    private volatile boolean refusing;

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

    private static String booked(String loan) {
        return envelope("<BookTransportResponse xmlns='urn:halewick:vanline:2'><reference>VD-" + loan
                + "</reference><status>booked</status></BookTransportResponse>");
    }

    /** Never the same twice: a record that goes on must not ask again. */
    private String asked() {
        return envelope("<LookUpInstitutionResponse xmlns='urn:halewick:register:1'>"
                + "<registrationNumber>RG-10400</registrationNumber><name>answer " + answers.incrementAndGet()
                + "</name><status>active</status><address><street>3 Quay Lane</street><city>Aldersund</city>"
                + "<country>NV</country></address></LookUpInstitutionResponse>");
    }

    @Test
    public void nothingIsSentTwiceOrLostWhereverTheServerIsKilled() throws Exception {
        long flow = bookings("Killed");
        killedOften(flow);
    }

    /** A process of PostgreSQL that is killed takes all others with it; it recovers from its log and starts anew. */
    @Test
    public void nothingIsSentTwiceOrLostWhenPostgresIsKilled() throws Exception {
        long flow = bookings("Killed database");
        for (int i = 0; i < 2; i++) {
            received.clear();
            JsonNode run =
                    client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
            int until = 5 + random.nextInt(60);
            Until.until("some were sent", () -> received.size() >= until);
            killPostgres();
            String path = "/api/runs/" + run.get("id").asLong();
            Until.until("the run is done all the same", () -> state(path).equals("done"));
            balance(path, client.get(path).get("run"));
        }
    }

    @Test
    public void whatIsSentAgainRepeatsNoChangeThatIsDone() throws Exception {
        long flow = bookings("Sent again");
        received.clear();
        refusing = true;
        JsonNode run = client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
        String path = "/api/runs/" + run.get("id").asLong();
        assertEquals(ended(path, "run").get("rejected").asInt(), 109);
        assertEquals(received.size(), 109, "the first change of each is done");
        // several ask at once: one of them gets the records
        List<CompletableFuture<JsonNode>> asked = new ArrayList<>();
        for (int i = 0; i < 4; i++) {
            asked.add(CompletableFuture.supplyAsync(() -> {
                try {
                    return client.post(path + "/resend", Map.of());
                } catch (IOException e) {
                    assertTrue(e.getMessage().contains("nothing-open"), e.getMessage());
                    return null;
                }
            }));
        }
        List<JsonNode> got = asked.stream()
                .map(CompletableFuture::join)
                .filter(Objects::nonNull)
                .toList();
        assertEquals(got.size(), 1, got.toString());
        String second = "/api/runs/" + got.get(0).get("id").asLong();
        JsonNode refused = ended(second, "run");
        assertEquals(refused.get("rejected").asInt(), 109, refused.toString());
        assertEquals(refused.get("originRun").asLong(), run.get("id").asLong());
        assertEquals(received.size(), 109, "what is done is known");
        // what was sent again in vain can be sent again
        refusing = false;
        JsonNode again = client.post(second + "/resend", Map.of());
        JsonNode done = ended("/api/runs/" + again.get("id").asLong(), "run");
        assertEquals(done.get("done").asInt(), 109, done.toString());
        assertEquals(received.stream().filter(each -> !each.contains(SECOND)).count(), 109, "none of them came twice");
        assertEquals(received.size(), 218);
        assertEquals(client.get(path).get("open").asInt(), 0);
        IOException nothing = expectThrows(IOException.class, () -> client.post(path + "/resend", Map.of()));
        assertTrue(nothing.getMessage().contains("nothing-open"), nothing.getMessage());
    }

    private void killPostgres() throws Exception {
        try (Connection admin = product.admin("postgres");
                Statement statement = admin.createStatement()) {
            ResultSet one = statement.executeQuery(
                    "select pid from pg_stat_activity where datname = '" + product.database() + "' limit 1");
            assertTrue(one.next());
            ProcessHandle.of(one.getLong(1)).orElseThrow().destroyForcibly();
            assertThrows(SQLException.class, () -> {
                while (statement.execute("select 1")) {
                    Thread.onSpinWait();
                }
            });
        }
    }

    /** Returns the state of a run; while the database is away the server cannot tell. */
    private String state(String path) {
        try {
            return client.get(path).get("run").get("state").asText();
        } catch (IOException e) {
            return "not known now";
        }
    }

    /** Returns a flow that books at the desk of this test, and writes what is booked. */
    private long bookings(String name) throws Exception {
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
