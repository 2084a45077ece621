package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.Test;

/**
 * The server killed while loans are booked crate by crate and taken back: every crate the desk booked is in the ledger
 * as booked, taken back or in doubt, and nothing came twice.
 */
public class KilledUndoTest extends KilledRuns {
    private static final String V = "/{urn:halewick:vanline:2}";
    private static final String OBJECT = V + "BookCrate" + V + "crate" + V + "content" + V + "object";

    private final Set<String> earlier = new HashSet<>();
    private volatile String series;
    private volatile boolean refusing = true;
    private final List<String> tickets = Collections.synchronizedList(new ArrayList<>());
    private final List<String> days = Collections.synchronizedList(new ArrayList<>());

    @Override
    Reply answer(String request) {
        if (request.contains("OpenDay") || request.contains("CloseDay")) {
            return day(request);
        }
        boolean cancels = request.contains("CancelCrate");
        String crate = request.replaceAll(cancels ? "(?s).*?label>VL/([^<]*)<.*" : "(?s).*?number>([^<]*)<.*", "$1");
        boolean refused = !cancels && refused(crate);
        received.add((cancels ? "cancel " : refused ? "refuse " : "book ") + crate);
        if (!cancels && !refused) {
            tickets.add(request.replaceAll("(?s).*?object>([^<]*)<.*", "$1"));
        }
        if (refused) {
            return new Reply(
                    500,
                    envelope("<s:Fault><faultcode>s:Server</faultcode><faultstring>no van</faultstring></s:Fault>"));
        }
        String v = " xmlns='urn:halewick:vanline:2'>";
        return new Reply(
                200,
                envelope(
                        cancels
                                ? "<CancelCrateResponse" + v + "<label>VL/" + crate
                                        + "</label><status>cancelled</status></CancelCrateResponse>"
                                : "<BookCrateResponse" + v + "<reference>" + crate + "</reference><label>VL/" + crate
                                        + "</label></BookCrateResponse>"));
    }

    private Reply day(String request) {
        boolean opens = request.contains("OpenDay");
        days.add(opens ? "open" : "close");
        String v = " xmlns='urn:halewick:vanline:2'>";
        return new Reply(
                200,
                envelope(
                        opens
                                ? "<OpenDayResponse" + v + "<day>DAY-1</day></OpenDayResponse>"
                                : "<CloseDayResponse" + v + "<status>closed</status></CloseDayResponse>"));
    }

    /** About every fifth crate is refused, always the same ones. */
    private boolean refused(String crate) {
        return refusing && Math.floorMod(crate.hashCode(), 5) == 0;
    }

    /** A loan whose crates were taken back is booked anew, crate by crate, when it is sent again. */
    @Test
    public void whatWasTakenBackIsDoneAnewWhenItIsSentAgain() throws Exception {
        received.clear();
        days.clear();
        JsonNode run = client.post("/api/flows/" + crates("Sent anew") + "/runs", asked());
        String path = "/api/runs/" + run.get("id").asLong();
        int rejected = ended(path, "run").get("rejected").asInt();
        assertTrue(rejected > 10, "some were refused: " + rejected);
        Map<String, Set<String>> cancelled = crates("cancel ", received);
        refusing = false;
        List<String> before = List.copyOf(received);
        JsonNode again = client.post(path + "/resend", Map.of());
        JsonNode ended = ended("/api/runs/" + again.get("id").asLong(), "run");
        refusing = true;
        assertEquals(ended.get("done").asInt(), rejected, ended.toString());
        List<String> anew = List.copyOf(received).subList(before.size(), received.size());
        assertTrue(crates("cancel ", anew).isEmpty(), anew.toString());
        Map<String, Set<String>> booked = crates("book ", anew);
        cancelled.forEach((loan, crates) -> assertTrue(booked.get(loan).containsAll(crates), loan));
        assertEquals(new HashSet<>(anew).size(), anew.size(), "each once");
    }

    /** What a Gather that only rejects left booked is taken back first where that is asked for, then all is booked. */
    @Test
    public void whatIsLeftIsTakenBackBeforeItIsSentAgain() throws Exception {
        received.clear();
        days.clear();
        long flow = crates("Taken back");
        JsonNode made = client.get("/api/flows/" + flow);
        ObjectNode file = made.get("file").deepCopy();
        ((ObjectNode) file.at("/stages/3/gather")).put("whenSomeFail", "reject");
        client.send("PUT", "/api/flows/" + flow, file, Map.of("If-Match", "\"2\""));
        JsonNode run = client.post("/api/flows/" + flow + "/runs", asked());
        String path = "/api/runs/" + run.get("id").asLong();
        JsonNode first = ended(path, "run");
        assertTrue(crates("cancel ", received).isEmpty(), "nothing is taken back by itself");
        Map<String, Set<String>> left = crates("book ", received);
        for (JsonNode line : client.get(path + "/records?ended=done&size=500").get("items")) {
            left.remove(line.get("key").asText());
        }
        JsonNode known = client.get(path + "/resendable");
        assertEquals(known.get("did").asInt(), left.size(), known.toString());
        assertTrue(known.get("takesBack").asBoolean());
        refusing = false;
        int before = received.size();
        JsonNode again = client.post(path + "/resend", Map.of("doneBefore", "taken-back"));
        JsonNode ended = ended("/api/runs/" + again.get("id").asLong(), "run");
        refusing = true;
        assertEquals(ended.get("done").asInt(), first.get("rejected").asInt(), ended.toString());
        List<String> anew = List.copyOf(received).subList(before, received.size());
        assertEquals(crates("cancel ", anew), left);
        assertEquals(new HashSet<>(anew).size(), anew.size(), "each once");
        Map<String, Set<String>> booked = crates("book ", anew);
        left.forEach((loan, crates) -> assertTrue(booked.get(loan).containsAll(crates), loan));
        assertEquals(booked.size(), first.get("rejected").asInt());
    }

    private static Map<String, Object> asked() {
        return Map.of("environment", "Test", "confirmed", true);
    }

    /** Returns the demo's flow, booking at the desk of this test. */
    private long crates(String name) throws Exception {
        JsonNode made = copy("Book loans, whole way", name);
        ObjectNode file = made.get("file").deepCopy();
        ObjectNode book = (ObjectNode) file.at("/stages/3/stages/0");
        book.put("endpoint", "Own desk");
        ((ObjectNode) book.get("undo").get(0)).put("endpoint", "Own desk");
        numbered(file, book, name);
        ((ObjectNode) file.at("/before/0")).put("endpoint", "Own desk");
        ((ObjectNode) file.at("/after/stages/0")).put("endpoint", "Own desk");
        client.send("PUT", "/api/flows/" + made.get("id"), file, Map.of("If-Match", "\"1\""));
        return made.get("id").asLong();
    }

    /** Every crate gets a ticket of a series without gaps, which the desk sees. */
    private void numbered(ObjectNode file, ObjectNode book, String name) throws Exception {
        series = "tickets of " + name;
        client.post("/api/series", Map.of("name", series, "gapless", true, "start", 1));
        ObjectNode map =
                JSON.createObjectNode().put("verb", "Map").put("id", "ticket").put("as", "ticket");
        map.putArray("columns").addObject().put("name", "no").put("type", "string");
        map.putArray("fills").addObject().put("id", "t1").put("target", "no").put("number", series);
        ((ArrayNode) file.at("/stages/3/stages")).insert(0, map);
        fill(book, "}object").removeAll().put("id", "b6").put("target", OBJECT).put("wire", "$ticket/no");
    }

    @Test
    public void everyCrateIsBookedTakenBackOrInDoubtWhereverTheServerIsKilled() throws Exception {
        killedOften(crates("Killed crates"));
    }

    @Override
    void begins() {
        days.clear();
        tickets.clear();
    }

    @Override
    void balance(String path, JsonNode run) throws Exception {
        List<JsonNode> lines = new ArrayList<>();
        client.get(path + "/records?size=500").get("items").forEach(lines::add);
        assertEquals(lines.size(), 109, "every record has its line");
        assertEquals(run.get("ended").asInt(), 109);
        assertEquals(days, List.of("open", "close"), "one day for the run, whenever it was killed");
        Set<String> once = new HashSet<>(received);
        List<String> twice = new ArrayList<>(received);
        once.forEach(twice::remove);
        // a crate that was refused took no effect: it may be asked for again
        twice.removeIf(each -> each.startsWith("refuse "));
        assertEquals(twice.toString(), "[]", "nothing came twice");
        Map<String, Set<String>> booked = crates("book ", received);
        Map<String, Set<String>> cancelled = crates("cancel ", received);
        for (JsonNode line : lines) {
            String loan = line.get("key").asText();
            Set<String> its = booked.getOrDefault(loan, Set.of());
            Set<String> back = cancelled.getOrDefault(loan, Set.of());
            switch (line.get("ended").asText()) {
                case "done" -> assertTrue(!its.isEmpty() && back.isEmpty(), loan + " is booked: " + its + back);
                case "rejected" -> assertEquals(back, its, loan + " is taken back");
                case "left-out" -> assertTrue(its.isEmpty() && back.isEmpty(), loan);
                default -> assertEquals(line.get("ended").asText(), "in-doubt");
            }
        }
        tickets(path, lines);
        String results = client.send("GET", path + "/results", null, Map.of()).text();
        List<String> rows =
                results.lines().skip(1).map(row -> row.split(",")[0]).toList();
        assertEquals(rows.size(), run.get("done").asInt(), "the file has what is done, once");
        assertEquals(new HashSet<>(rows).size(), rows.size());
    }

    /** Each ticket was used for one crate, or given back: none is missing, and none came twice. */
    private void tickets(String path, List<JsonNode> lines) throws Exception {
        Set<String> used = new HashSet<>();
        for (JsonNode line : lines) {
            JsonNode way = client.get(path + "/records/" + line.get("ordinal"));
            for (JsonNode number : way.get("numbers")) {
                boolean ticket = number.get("series").asText().equals(series);
                boolean back = number.get("givenBack").asBoolean();
                assertTrue(!ticket || back || used.add(number.get("text").asText()), "used twice: " + number);
            }
        }
        assertEquals(new HashSet<>(tickets).size(), tickets.size(), "the desk saw each ticket once");
        Set<String> lost = new HashSet<>(tickets);
        lost.removeAll(used);
        assertEquals(lost.toString(), "[]", "what the desk saw counts");
        JsonNode its = null;
        for (JsonNode each : client.get("/api/series?size=100").get("items")) {
            its = each.get("name").asText().equals(series) ? each : its;
        }
        Set<String> all = new HashSet<>(earlier);
        all.addAll(used);
        String open = "/api/series/" + its.get("id").asLong() + "/numbers?size=1000";
        for (JsonNode each : client.get(open).get("items")) {
            assertTrue(each.path("run").isMissingNode() || each.get("run").isNull(), "held by nobody: " + each);
            assertTrue(all.add(each.get("text").asText()), "given back, and used: " + each);
        }
        int next = its.at("/positions/0/next").asInt();
        assertEquals(all.size(), next - 1, "none is missing");
        earlier.addAll(used);
    }

    /** The crates of a log by their loans. */
    private static Map<String, Set<String>> crates(String what, List<String> log) {
        Map<String, Set<String>> crates = new HashMap<>();
        for (String each : List.copyOf(log)) {
            if (each.startsWith(what)) {
                String crate = each.substring(what.length());
                String loan = crate.substring(0, crate.lastIndexOf('-'));
                crates.computeIfAbsent(loan, l -> new HashSet<>()).add(crate);
            }
        }
        return crates;
    }
}
