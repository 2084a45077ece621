package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
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
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.Test;

/**
 * What people do in a morning, in any order: a run against a desk that refuses some bookings and answers others into the
 * void, killed and resumed, corrected, settled, discarded, sent again. The desk's log says what was booked: nothing twice, and
 * every record comes to one end.
 */
public class RandomMorningsTest extends KilledRuns {
    /** Set with {@code -Dkills=20 -Dseed=7}. */
    private static final int MORNINGS = Integer.getInteger("kills", 2);

    private static final int STEPS = 10;

    private final Map<String, AtomicInteger> booked = new ConcurrentHashMap<>();

    @Override
    Reply answer(String request) {
        String loan = request.replaceAll("(?s).*?loanReference>([^<]*)<.*", "$1");
        received.add(loan);
        int fate;
        synchronized (random) {
            fate = random.nextInt(100);
        }
        if (fate < 20) {
            return new Reply(
                    500,
                    envelope(
                            "<s:Fault><faultcode>s:Client</faultcode><faultstring>no cart today</faultstring></s:Fault>"));
        }
        boolean lost = fate < 30;
        // what is lost on its way back may have been booked or not
        if (!lost || fate % 2 == 0) {
            booked.computeIfAbsent(loan, key -> new AtomicInteger()).incrementAndGet();
        }
        return lost
                ? new Reply(502, "gone")
                : new Reply(
                        200,
                        envelope("<BookTransportResponse xmlns='urn:halewick:vanline:2'><reference>VD-" + loan
                                + "</reference><status>booked</status></BookTransportResponse>"));
    }

    @Override
    void balance(String path, JsonNode run) {
        // what must hold is looked at when the morning is over
    }

    private long bookings() throws Exception {
        JsonNode made = copy("Book transports", "Mornings");
        ObjectNode file = made.get("file").deepCopy();
        ObjectNode call = stage(file, "call");
        call.put("endpoint", "Own desk");
        call.remove("lane");
        ((ObjectNode) call.get("delivery")).put("atOnce", 8).putArray("failedWhen");
        client.post("/api/datasets", Map.of("name", "Mornings booked", "kind", "csv"));
        ObjectNode write = stage(file, "write");
        write.put("dataset", "Mornings booked").put("rows", "").put("mode", "append");
        ArrayNode columns = write.putArray("columns");
        columns.addObject()
                .put("name", "loan")
                .put("label", "loan")
                .put("type", "string")
                .put("required", true);
        write.putArray("fills")
                .addObject()
                .put("id", "w1")
                .put("target", "loan")
                .put("wire", "$loan/loan_no");
        ArrayNode stages = (ArrayNode) file.get("stages");
        while (!stages.get(stages.size() - 1).get("id").asText().equals("write")) {
            stages.remove(stages.size() - 1);
        }
        file.remove("lane");
        client.send("PUT", "/api/flows/" + made.get("id"), file, Map.of("If-Match", "\"1\""));
        return made.get("id").asLong();
    }

    @Test
    public void whateverIsDoneInAMorningNothingIsBookedTwiceAndTheSumsAreRight() throws Exception {
        long flow = bookings();
        for (int morning = 0; morning < MORNINGS; morning++) {
            booked.clear();
            List<Long> runs = new ArrayList<>();
            runs.add(client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true))
                    .get("id")
                    .asLong());
            List<String> did = new ArrayList<>();
            for (int i = 0; i < STEPS; i++) {
                did.add(step(runs));
            }
            tidy(runs);
            sums(runs, did);
        }
    }

    private String state(long run) throws Exception {
        return client.get("/api/runs/" + run).get("run").get("state").asText();
    }

    private void rest(long run) throws Exception {
        if (state(run).equals("interrupted")) {
            client.post("/api/runs/" + run + "/resume", Map.of());
        }
        ended("/api/runs/" + run, "run");
    }

    private List<JsonNode> lines(long run, String ended) throws Exception {
        List<JsonNode> lines = new ArrayList<>();
        client.get("/api/runs/" + run + "/records?size=500&ended=" + ended)
                .get("items")
                .forEach(lines::add);
        return lines;
    }

    private String step(List<Long> runs) throws Exception {
        long run = runs.get(random.nextInt(runs.size()));
        switch (random.nextInt(5)) {
            case 0 -> {
                int until = received.size() + random.nextInt(20);
                while (received.size() < until
                        && state(runs.get(runs.size() - 1)).equals("running")) {
                    Thread.onSpinWait();
                }
                product.kill();
                product.start();
                client = product.client();
                return "killed";
            }
            case 1 -> {
                rest(run);
                settle(run, true);
                return "settled some of " + run;
            }
            case 2 -> {
                rest(run);
                resend(runs, run, true);
                return "sent some of " + run + " again";
            }
            case 3 -> {
                rest(run);
                List<JsonNode> rejected = lines(run, "rejected");
                if (!rejected.isEmpty()) {
                    long ordinal = rejected.get(random.nextInt(rejected.size()))
                            .get("ordinal")
                            .asLong();
                    client.send(
                            "POST",
                            "/api/runs/" + run + "/settlements",
                            Map.of("what", "discarded", "reason", "called off", "ordinals", List.of(ordinal)),
                            Map.of());
                }
                return "discarded one of " + run;
            }
            default -> {
                rest(run);
                client.send(
                        "POST",
                        "/api/runs/" + run + "/corrections/replacement",
                        Map.of("field", "remark", "replace", "changed in the morning"),
                        Map.of());
                return "corrected " + run;
            }
        }
    }

    /** Says of records in doubt what the desk's log says. */
    private void settle(long run, boolean some) throws Exception {
        for (JsonNode line : lines(run, "in-doubt")) {
            if (some && random.nextBoolean()) {
                continue;
            }
            boolean done = booked.containsKey(line.get("key").asText());
            client.send(
                    "POST",
                    "/api/runs/" + run + "/settlements",
                    Map.of(
                            "what",
                            done ? "done" : "not-done",
                            "reason",
                            "the desk's log says so",
                            "ordinals",
                            List.of(line.get("ordinal").asLong())),
                    Map.of());
        }
    }

    private boolean resend(List<Long> runs, long run, boolean some) throws Exception {
        Map<String, Object> which = new HashMap<>();
        if (some) {
            List<Long> ordinals = new ArrayList<>();
            for (JsonNode line : lines(run, "rejected")) {
                if (random.nextBoolean()) {
                    ordinals.add(line.get("ordinal").asLong());
                }
            }
            which.put("ordinals", ordinals);
        }
        var answer = client.send("POST", "/api/runs/" + run + "/resend", which, Map.of());
        if (answer.status() == 200) {
            runs.add(answer.json().get("id").asLong());
        } else {
            assertEquals(answer.status(), 409, answer.text());
        }
        return answer.status() == 200;
    }

    /** Does what is left until nothing is open any more. */
    private void tidy(List<Long> runs) throws Exception {
        for (int i = 0; i < runs.size(); i++) {
            rest(runs.get(i));
            settle(runs.get(i), false);
            resend(runs, runs.get(i), false);
        }
        for (long run : runs) {
            JsonNode state = client.get("/api/runs/" + run);
            assertEquals(state.get("open").asInt() + state.get("doubtful").asInt(), 0, state.toString());
        }
    }

    private void sums(List<Long> runs, List<String> did) throws Exception {
        Map<String, List<String>> ends = new TreeMap<>();
        Set<String> said = new HashSet<>();
        for (long run : runs) {
            JsonNode its = client.get("/api/runs/" + run).get("run");
            assertEquals(
                    its.get("read").asInt(),
                    its.get("done").asInt()
                            + its.get("rejected").asInt()
                            + its.get("inDoubt").asInt(),
                    its.toString());
            for (String end : List.of("done", "rejected", "in-doubt")) {
                for (JsonNode line : lines(run, end)) {
                    JsonNode way = client.get("/api/runs/" + run + "/records/"
                            + line.get("ordinal").asLong());
                    String settled = way.path("settlement").path("what").asText("");
                    if (!way.hasNonNull("sentAgainIn")) {
                        String key = line.get("key").asText();
                        ends.computeIfAbsent(key, k -> new ArrayList<>()).add(end + " " + settled);
                        if (end.equals("done") || settled.equals("done")) {
                            said.add(key);
                        }
                    }
                }
            }
        }
        String how = "seed " + SEED + ": " + did + " " + runs;
        assertEquals(ends.size(), 109, how);
        ends.forEach((loan, its) -> assertEquals(its.size(), 1, loan + " " + its + " " + how));
        booked.forEach((loan, times) -> assertEquals(times.get(), 1, loan + " was booked twice; " + how));
        assertEquals(booked.keySet(), said, "what the desk booked is what is said to be done; " + how);
        assertTrue(runs.size() > 1, how);
    }
}
