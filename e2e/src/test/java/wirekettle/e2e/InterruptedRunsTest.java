package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.sql.Connection;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.testng.annotations.Test;
import wirekettle.demo.DemoWorld;

/** Runs that are stopped on their way: paused, cancelled, or because a service, the server or the database is away. */
public class InterruptedRunsTest extends BorrowerRuns {
    @Test
    public void aServiceThatIsDownHoldsTheRunUntilItIsBack() throws Exception {
        int port;
        try (java.net.ServerSocket free = new java.net.ServerSocket(0)) {
            port = free.getLocalPort();
        }
        String address = "http://127.0.0.1:" + port + "/register";
        client.put("/api/endpoints", Map.of("name", "Nowhere", "addresses", Map.of("Test", address)));
        client.post("/api/allowed-hosts", Map.of("host", "127.0.0.1:" + port));
        JsonNode flow = flow("Down", f -> {
            ((ObjectNode) f.get("stages").get(1)).put("endpoint", "Nowhere");
            delivery(f).put("effect", "changes");
        });
        JsonNode run = run(flow, 3);
        String path = "/api/runs/" + run.get("id").asLong();
        until("the run is on hold", () -> get(path).path("onHold").asText().contains("the endpoint rests"));
        assertEquals(get(path).get("run").get("ended").asInt(), 0, "an outage eats no record");
        try (DemoWorld back = new DemoWorld(port)) {
            JsonNode ended = finished(run);
            assertEquals(ended.get("done").asInt(), 3, ended.toString());
            assertEquals(ended.get("calls").asInt(), 3, "an outage counts against no attempt");
            assertEquals(back.register().received(), 3);
        }
    }

    @Test
    public void aKilledServerShowsTheRunAsInterruptedAndItGoesOnWhereItWas() throws Exception {
        JsonNode flow = flow("Interrupted", f -> delivery(f).put("atOnce", 2));
        world.registerKnobs().latencyMillis = 60;
        JsonNode run = run(flow, 0);
        String path = "/api/runs/" + run.get("id").asLong();
        until("some records are done", () -> get(path).get("run").get("ended").asInt() >= 20);
        int seen = get(path).get("run").get("ended").asInt();
        product.kill();
        startedBeforeItsDatabase();
        client = product.client();
        JsonNode after = get(path).get("run");
        assertEquals(after.get("state").asText(), "interrupted");
        assertTrue(after.get("ended").asInt() >= seen, "no finished record is lost");
        assertTrue(after.get("ended").asInt() < 240);
        assertEquals(
                client.send("POST", path + "/settlements", Map.of("what", "discarded", "reason", "x"), Map.of())
                        .status(),
                409,
                "what may still go on is not settled");
        JsonNode lines = get(path + "/records?size=500").get("items");
        assertEquals(lines.size(), after.get("ended").asInt());
        world.registerKnobs().latencyMillis = 0;
        client.post(path + "/resume", Map.of());
        JsonNode ended = finished(run);
        assertEquals(ended.get("state").asText(), "done");
        assertEquals(ended.get("done").asInt(), 230);
        assertEquals(ended.get("rejected").asInt(), 10);
        assertEquals(get(path + "/records?size=500").get("total").asInt(), 240);
        String rows = client.send("GET", path + "/results", null, Map.of()).text();
        assertEquals(rows.lines().count(), 231);
        assertEquals(rows.lines().distinct().count(), 231, "each row once");
    }

    /** A server that is started while its database takes no connections yet waits for it. */
    private void startedBeforeItsDatabase() throws Exception {
        try (Connection admin = product.admin("postgres");
                Statement statement = admin.createStatement()) {
            statement.execute("alter database \"" + product.database() + "\" allow_connections false");
            CompletableFuture<Void> started = CompletableFuture.runAsync(() -> {
                try {
                    product.start();
                } catch (IOException e) {
                    throw new UncheckedIOException(e);
                }
            });
            until("it waits for its database", () -> started.isDone() || waits());
            statement.execute("alter database \"" + product.database() + "\" allow_connections true");
            started.get();
        }
    }

    private boolean waits() {
        try {
            return product.log().contains("Retrying in");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Test
    public void anInterruptedRunGoesOnByItselfWhereItsFlowSaysSo() throws Exception {
        JsonNode flow = flow("By itself", f -> {
            delivery(f).put("atOnce", 2);
            ((ObjectNode) f.get("stages").get(0)).put("goesOn", true);
        });
        world.registerKnobs().latencyMillis = 60;
        JsonNode run = run(flow, 0);
        String path = "/api/runs/" + run.get("id").asLong();
        until("some records are done", () -> get(path).get("run").get("ended").asInt() >= 20);
        product.kill();
        world.registerKnobs().latencyMillis = 0;
        product.start();
        client = product.client();
        until("it is done", () -> get(path).get("run").get("state").asText().equals("done"));
        assertEquals(get(path).get("run").get("done").asInt(), 230);
        assertEquals(get(path + "/records?size=500").get("total").asInt(), 240);
    }

    @Test
    public void aRunIsPausedAndGoesOn() throws Exception {
        JsonNode flow = flow("Paused", f -> delivery(f).put("atOnce", 2));
        world.registerKnobs().latencyMillis = 40;
        JsonNode run = run(flow, 0);
        String path = "/api/runs/" + run.get("id").asLong();
        until("some records are done", () -> get(path).get("run").get("ended").asInt() >= 10);
        client.post(path + "/pause", Map.of());
        JsonNode paused = finished(run);
        assertEquals(paused.get("state").asText(), "paused");
        assertTrue(paused.get("ended").asInt() < 240, paused.toString());
        world.registerKnobs().latencyMillis = 0;
        client.post(path + "/resume", Map.of());
        JsonNode ended = finished(run);
        assertEquals(ended.get("done").asInt() + ended.get("rejected").asInt(), 240);
        assertEquals(ended.get("calls").asInt(), 237, "nothing was called twice");
    }

    @Test
    public void aPilotStopsAtItsLimitAndGoesOnWithTheRest() throws Exception {
        JsonNode flow = flow("Pilot", f -> {});
        JsonNode run = client.post(
                "/api/flows/" + flow.get("id").asLong() + "/runs",
                Map.of("environment", "Test", "limit", 25, "pilot", true));
        JsonNode pilot = finished(run);
        assertEquals(pilot.get("state").asText(), "paused");
        assertEquals(pilot.get("ended").asInt(), 25);
        client.post("/api/runs/" + run.get("id").asLong() + "/resume", Map.of());
        assertEquals(finished(run).get("ended").asInt(), 240);
    }

    /** A query that gives other rows each time it is asked: a run has those it began with. */
    @Test
    public void aRunOfAQueryGoesOnWithTheRowsItBeganWith() throws Exception {
        client.post(
                "/api/datasets",
                Map.of(
                        "name",
                        "drawn lots",
                        "kind",
                        "query",
                        "query",
                        "select n as crate_no, random() as institution_no from generate_series(1, 60) n order by 2"));
        JsonNode flow = flow("Drawn lots", f -> {
            ((ObjectNode) f.get("stages").get(0)).put("dataset", "drawn lots");
            ((ObjectNode) f.get("stages").get(2)).putArray("columns");
            ((ObjectNode) f.get("stages").get(2)).putArray("fills");
            ((ArrayNode) f.get("stages")).remove(1);
            ObjectNode write = (ObjectNode) f.get("stages").get(1);
            write.remove("rows");
            for (String name : List.of("crate_no", "institution_no")) {
                write.withArray("columns").addObject().put("name", name).put("label", name);
                write.withArray("fills")
                        .addObject()
                        .put("id", name)
                        .put("target", name)
                        .put("wire", "$loan/" + name);
            }
        });
        JsonNode run = client.post(
                "/api/flows/" + flow.get("id").asLong() + "/runs",
                Map.of("environment", "Test", "limit", 25, "pilot", true));
        assertEquals(finished(run).get("state").asText(), "paused");
        client.post("/api/runs/" + run.get("id").asLong() + "/resume", Map.of());
        JsonNode ended = finished(run);
        assertEquals(ended.get("state").asText(), "done", ended.toString());
        assertEquals(ended.get("done").asInt(), 60);
        List<String> lines = client.send("GET", "/api/runs/" + run.get("id").asLong() + "/results", null, Map.of())
                .text()
                .lines()
                .skip(1)
                .toList();
        assertEquals(lines.stream().distinct().count(), 60);
        List<Double> lots =
                lines.stream().map(l -> Double.valueOf(l.split(",")[1])).toList();
        assertEquals(lots, lots.stream().sorted().toList(), "one order all the way");
    }

    @Test
    public void aDatabaseThatGoesAwayAndComesBackHoldsTheRun() throws Exception {
        JsonNode flow = flow("Database away", f -> delivery(f).put("atOnce", 2).put("effect", "changes"));
        world.registerKnobs().latencyMillis = 30;
        JsonNode run = run(flow, 0);
        String path = "/api/runs/" + run.get("id").asLong();
        until("some records are done", () -> get(path).get("run").get("ended").asInt() >= 10);
        long before = world.register().received();
        try (Connection admin = product.admin("postgres");
                Statement statement = admin.createStatement()) {
            statement.execute("alter database \"" + product.database() + "\" allow_connections false");
            statement.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = '"
                    + product.database() + "'");
            until("nothing is sent that is in no book", () -> quiet());
            assertTrue(world.register().received() - before < 60, "what leaves is claimed first");
            statement.execute("alter database \"" + product.database() + "\" allow_connections true");
        }
        world.registerKnobs().latencyMillis = 0;
        JsonNode ended = finished(run);
        assertEquals(ended.get("state").asText(), "done", ended.toString());
        assertEquals(ended.get("done").asInt(), 230);
    }

    private long lately;

    /** Tells whether the service has received nothing more since it was asked last. */
    private boolean quiet() {
        long now = world.register().received();
        boolean same = now == lately;
        lately = now;
        return same;
    }

    @Test
    public void cancelKeepsWhatIsDoneAndItsFile() throws Exception {
        JsonNode flow = flow("Cancelled", f -> delivery(f).put("atOnce", 2));
        world.registerKnobs().latencyMillis = 60;
        JsonNode run = run(flow, 0);
        String path = "/api/runs/" + run.get("id").asLong();
        until("some records are done", () -> get(path).get("run").get("ended").asInt() >= 10);
        client.post(path + "/cancel", Map.of());
        JsonNode ended = finished(run);
        assertEquals(ended.get("state").asText(), "cancelled");
        long rows = client.send("GET", path + "/results", null, Map.of())
                        .text()
                        .lines()
                        .count()
                - 1;
        assertEquals(rows, ended.get("done").asInt());
        assertTrue(rows >= 8 && rows < 240, "rows " + rows);
    }
}
