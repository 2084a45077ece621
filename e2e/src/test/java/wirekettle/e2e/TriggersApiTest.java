package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.testng.annotations.Test;

/** What starts published flows by itself, and who is told when it goes wrong or does not go at all. */
public class TriggersApiTest extends DutyRuns {
    private static final String KNOWN = "RG-10696";
    private static final String NIGHT = "night@halewick.invalid";

    private JsonNode run(long id) {
        return get("/api/runs/" + id).get("run");
    }

    private JsonNode ended(JsonNode event) {
        long id = event.get("runId").asLong();
        until("run " + id + " ends", () -> !run(id).get("state").asText().equals("running"));
        return run(id);
    }

    private long dataset(String name) {
        return get("/api/datasets?q=" + name.replace(" ", "%20"))
                .get("items")
                .get(0)
                .get("id")
                .asLong();
    }

    private void put(long folder, String name, String content) throws Exception {
        client.upload(
                "/api/datasets/" + folder + "/files", "files", Map.of(name, content.getBytes(StandardCharsets.UTF_8)));
    }

    /** Where a dataset's folder lies; it is there from its first file on. */
    private Path folder(String name, long id) throws Exception {
        put(id, "other.txt", "not meant");
        Path folder = product.data().resolve("datasets").resolve(name + "-" + id + ".files");
        assertTrue(Files.isDirectory(folder), folder.toString());
        return folder;
    }

    @Test
    public void aFileThatComesIsRunOnceAndMovedAway() throws Exception {
        JsonNode flow = small("From files", "drop form", loans(loan("D-0", KNOWN)), file -> {
            ObjectNode fill =
                    (ObjectNode) file.get("stages").get(1).get("fills").get(2);
            fill.remove("wire");
            fill.put("expression", "substring(concat($run/file, '-', $loan/loan_no), 1, 20)");
        });
        publish(flow, "Test");
        client.post("/api/datasets", Map.of("name", "night drop", "kind", "folder"));
        long folder = dataset("night drop");
        JsonNode trigger = trigger(
                flow,
                "file",
                Map.of("folder", "night drop", "pattern", "loans-*.csv", "marker", ".ready", "again", false));
        put(folder, "other.csv", "not meant");
        put(folder, "loans-1.csv", loans(loan("D-1", KNOWN), loan("D-2", KNOWN)));
        put(folder, "loans-1.csv.ready", "x");
        JsonNode run = ended(event(trigger, "started"));
        assertEquals(run.get("done").asInt(), 2, run.toString());
        assertEquals(run.get("begunBy").asText(), "file");
        JsonNode way = get("/api/runs/" + run.get("id").asLong() + "/records/1");
        assertTrue(way.get("exchanges").toString().contains("loans-1.csv-D-1"), way.toString());
        try (var copies = Files.list(product.data().resolve("runs/files"))) {
            assertEquals(copies.count(), 0, "what was read from is not kept");
        }
        put(folder, "loans-2.csv", loans(loan("D-1", KNOWN), loan("D-2", KNOWN)));
        put(folder, "loans-2.csv.ready", "x");
        JsonNode same = event(trigger, "same-content");
        assertTrue(same.get("message").asText().contains("content of loans-1.csv"), same.toString());
        String left = get("/api/datasets/" + folder + "/files?size=50").toString();
        assertTrue(left.contains("other.csv") && !left.contains("loans-1.csv"), left);
    }

    @Test
    public void aFolderThatGoesAwayIsToldOnceAndItsFilesAreTakenWhenItIsBack() throws Exception {
        JsonNode flow = small("From a folder", "folder form", loans(loan("F-0", KNOWN)), file -> {});
        publish(flow, "Test");
        client.post("/api/datasets", Map.of("name", "shaky drop", "kind", "folder"));
        long folder = dataset("shaky drop");
        Path files = folder("shaky_drop", folder);
        Path away = files.resolveSibling("away");
        Files.move(files, away);
        JsonNode trigger = trigger(flow, "file", Map.of("folder", "shaky drop", "pattern", "*.csv", "restSeconds", 1));
        assertTrue(event(trigger, "refused").get("message").asText().contains("the folder is not there"));
        Files.move(away, files);
        put(folder, "loans.csv", loans(loan("F-1", KNOWN)));
        assertEquals(ended(event(trigger, "started")).get("done").asInt(), 1);
        String events = "/api/triggers/" + trigger.get("id").asLong() + "/events";
        assertEquals(
                get(events).get("items").findValuesAsText("what").stream()
                        .filter("refused"::equals)
                        .count(),
                1,
                "it is told once");
    }

    @Test
    public void aFileThatCannotBeReadIsMovedAwayAndDoesNotStopTheOthers() throws Exception {
        JsonNode flow = small("From a bad disk", "disk form", loans(loan("B-0", KNOWN)), file -> {});
        publish(flow, "Test");
        client.post("/api/datasets", Map.of("name", "bad drop", "kind", "folder"));
        long folder = dataset("bad drop");
        Path files = folder("bad_drop", folder);
        // a regular file by all that is said of it, and an error of the device at its first byte
        Path bad = Files.createSymbolicLink(files.resolve("a-bad.csv"), Path.of("/proc/self/mem"));
        try {
            Files.writeString(files.resolve("a-bad.csv.ready"), "x");
            JsonNode trigger =
                    trigger(flow, "file", Map.of("folder", "bad drop", "pattern", "*.csv", "marker", ".ready"));
            String told = event(trigger, "refused").get("message").asText();
            assertTrue(told.contains("a-bad.csv cannot be read, and was moved to “failed”"), told);
            put(folder, "b-good.csv", loans(loan("B-1", KNOWN)));
            put(folder, "b-good.csv.ready", "x");
            assertEquals(ended(event(trigger, "started")).get("done").asInt(), 1);
            assertTrue(Files.isSymbolicLink(files.resolve("failed/a-bad.csv")));
        } finally {
            Files.copy(
                    product.data().resolve("server.log"),
                    Path.of("/tmp/w/server.log"),
                    java.nio.file.StandardCopyOption.REPLACE_EXISTING);
            Files.deleteIfExists(bad);
            Files.deleteIfExists(files.resolve("working/a-bad.csv"));
            Files.deleteIfExists(files.resolve("failed/a-bad.csv"));
        }
    }

    @Test
    public void aFlowFollowsAnotherWithWhatThatWroteAndNeverInACircle() throws Exception {
        JsonNode first =
                small("First of two", "two in", loans(loan("T-1", KNOWN), loan("T-2", "RG-99017")), file -> {});
        JsonNode second = small("Second of two", "two other", loans(loan("T-0", KNOWN)), file -> {
            ((ObjectNode) file.get("stages").get(0)).put("dataset", "two in");
        });
        publish(first, "Test");
        publish(second, "Test");
        JsonNode follows =
                trigger(second, "flow", Map.of("after", first.get("id").asLong(), "onlyDone", false));
        var circle = send(
                "POST",
                "/api/flows/" + first.get("id").asLong() + "/triggers",
                Map.of(
                        "environment",
                        "Test",
                        "kind",
                        "flow",
                        "spec",
                        Map.of("after", second.get("id").asLong())),
                0);
        assertEquals(circle.status(), 409);
        JsonNode strict =
                trigger(second, "flow", Map.of("after", first.get("id").asLong(), "onlyDone", true));
        finished(run(first, 0));
        assertEquals(ended(event(follows, "started")).get("begunBy").asText(), "flow");
        JsonNode out = event(strict, "left-out");
        assertTrue(out.get("message").asText().contains("1 records that are not done"), out.toString());
    }

    /** What takes until a minute is over is waited for together: a clock, an absence, a clock whose flow is not in force. */
    @Test
    public void aClockStartsWhatIsInForceAndAnAbsenceIsTold() throws Exception {
        ConcurrentLinkedQueue<String> hooked = new ConcurrentLinkedQueue<>();
        HttpServer hook = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 0);
        hook.createContext("/", exchange -> {
            hooked.add(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            exchange.sendResponseHeaders(204, -1);
            exchange.close();
        });
        hook.start();
        try {
            client.post(
                    "/api/allowed-hosts",
                    Map.of("host", "127.0.0.1:" + hook.getAddress().getPort()));
            JsonNode flow = small("By the clock", "clock in", loans(loan("C-1", KNOWN)), file -> {});
            publish(flow, "Test");
            JsonNode clock = trigger(flow, "clock", Map.of("everyMinutes", 1, "overlap", "skip"));
            assertEquals(clock.get("words").asText(), "every minute");
            JsonNode absent = small(
                    "Never happens",
                    "never in",
                    loans(loan("N-1", KNOWN)),
                    file -> file.put("runbook", "Ring the desk before seven."));
            JsonNode refused = trigger(absent, "clock", Map.of("everyMinutes", 1));
            String by = Instant.now()
                    .plus(1, ChronoUnit.MINUTES)
                    .atZone(ZoneOffset.UTC)
                    .toLocalTime()
                    .truncatedTo(ChronoUnit.MINUTES)
                    .toString();
            rule(absent, "absent", Map.of("by", by, "zone", "UTC", "mail", List.of(NIGHT)));
            rule(
                    absent,
                    "failed",
                    Map.of("hook", "http://127.0.0.1:" + hook.getAddress().getPort() + "/told"));
            assertEquals(ended(event(clock, "started")).get("done").asInt(), 1);
            assertTrue(event(refused, "refused").get("message").asText().contains("in force"));
            until("the absence is mailed", () -> !mailsAbout("Never happens did not happen in Test")
                    .isEmpty());
            String text = mailsAbout("Never happens did not happen").get(0).text();
            assertTrue(text.contains("Ring the desk before seven."), text);
            until("the hook is told", () -> hooked.stream().anyMatch(each -> each.contains("was not started in Test")));
            assertEquals(mailsAbout("Never happens did not happen").size(), 1, "it is told once");
        } finally {
            hook.stop(0);
        }
    }

    private JsonNode rule(JsonNode flow, String kind, Map<String, Object> spec) throws Exception {
        ObjectNode wanted = JSON.createObjectNode().put("kind", kind).put("environment", "Test");
        wanted.put("flowId", flow.get("id").asLong()).putPOJO("spec", spec);
        return client.post("/api/alert-rules", wanted);
    }

    @Test
    public void whatARunTellsIsOneMailAndSomebodyLooksAfterIt() throws Exception {
        JsonNode flow = small(
                "Told of",
                "told in",
                loans(loan("A-1", "RG-99017"), loan("A-2", "RG-99088"), loan("A-3", KNOWN)),
                file -> {
                    file.putObject("brake").put("rejected", 3).put("last", 10);
                    file.put("runbook", "Look at the register.");
                });
        rule(flow, "rejected", Map.of("count", 1, "mail", List.of(NIGHT)));
        rule(flow, "rejected", Map.of("percent", 50, "mail", List.of(NIGHT)));
        JsonNode run = finished(run(flow, 0));
        assertEquals(run.get("rejected").asInt(), 2);
        until("the mail has come", () -> !mailsAbout("of Told of in Test").isEmpty());
        assertEquals(mailsAbout("of Told of in Test").size(), 1);
        assertTrue(mailsAbout("of Told of in Test").get(0).subject().endsWith(", and 1 more"));
        JsonNode alert = get("/api/alerts?open=true&flow=" + flow.get("id").asLong())
                .get("items")
                .get(0);
        client.post("/api/alerts/" + alert.get("id").asLong() + "/acknowledge", Map.of("note", "I ring them"));
        assertEquals(
                send("POST", "/api/alerts/" + alert.get("id").asLong() + "/acknowledge", Map.of(), 0)
                        .status(),
                409);
        assertEquals(
                get("/api/alerts?open=true&flow=" + flow.get("id").asLong())
                        .get("total")
                        .asInt(),
                1);
    }

    @Test
    public void aBrakeStopsARunAndTheRestCanGoOn() throws Exception {
        String[] wrong = new String[60];
        for (int i = 0; i < wrong.length; i++) {
            wrong[i] = loan("B-" + i, "RG-99017");
        }
        JsonNode flow = small("Braked", "brake in", loans(wrong), file -> {
            file.putObject("brake").put("rejected", 5).put("last", 20);
            delivery(file).put("atOnce", 1);
        });
        JsonNode run = finished(run(flow, 0));
        assertEquals(run.get("state").asText(), "stopped");
        assertTrue(run.get("message").asText().contains("the flow stops at 5 of the last 20"), run.toString());
    }

    @Test
    public void whatIsWrongOfATriggerOrRuleIsSaid() throws Exception {
        for (Map<String, Object> wrong : List.<Map<String, Object>>of(
                Map.of("kind", "clock", "spec", Map.of("cron", "61 * * * *")),
                Map.of("kind", "clock", "spec", Map.of("cron", "0 0 30 2 *")),
                Map.of("kind", "clock", "spec", Map.of("everyMinutes", 1, "zone", "Nowhere")),
                Map.of("kind", "clock", "spec", Map.of("everyMinutes", 1, "days", "no such")),
                Map.of("kind", "file", "spec", Map.of("folder", "no such")),
                Map.of("kind", "flow", "spec", Map.of()),
                Map.of("kind", "moon", "spec", Map.of()))) {
            Map<String, Object> body = new java.util.HashMap<>(wrong);
            body.put("environment", "Test");
            var answer = send("POST", "/api/flows/1/triggers", body, 0);
            assertEquals(answer.status(), 400, wrong + " " + answer.text());
        }
        for (Map<String, Object> wrong : List.<Map<String, Object>>of(
                Map.of("kind", "rejected", "spec", Map.of()),
                Map.of("kind", "absent", "spec", Map.of("by", "07:00")),
                Map.of("kind", "failed", "spec", Map.of("mail", List.of("nobody"))),
                Map.of("kind", "failed", "spec", Map.of("quietFrom", "22:00")),
                Map.of("kind", "failed", "spec", Map.of("hook", "ftp://x")))) {
            assertEquals(send("POST", "/api/alert-rules", wrong, 0).status(), 400, wrong.toString());
        }
        Map<String, Object> elsewhere = Map.of("kind", "failed", "spec", Map.of("hook", "http://nobody.invalid/told"));
        var refused = send("POST", "/api/alert-rules", elsewhere, 0);
        assertEquals(refused.status(), 422);
        assertEquals(refused.json().get("code").asText(), "host-not-allowed");
    }
}
