package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** Two servers on one database: each job is done once, and what one leaves behind the other takes over. */
public class TwoServersTest extends DutyRuns {
    private static JsonNode at(ProductClient server, String path) {
        try {
            return server.get(path);
        } catch (java.io.IOException e) {
            throw new AssertionError(e);
        }
    }

    @Test
    public void aJobIsDoneOnceAndARunOfAServerThatIsKilledGoesOn() throws Exception {
        JsonNode flow = small("On two servers", "two servers in", loans(loan("S-1", "RG-10696")), file -> {});
        publish(flow, "Test");
        try (StartedProduct second = product.beside()) {
            ProductClient other = second.client();
            JsonNode trigger = trigger(flow, "clock", Map.of("everyMinutes", 1, "overlap", "beside"));
            JsonNode started = event(trigger, "started");
            assertEquals(
                    get("/api/triggers/" + trigger.get("id").asLong() + "/events")
                            .get("total")
                            .asInt(),
                    1);
            assertEquals(
                    at(other, "/api/runs?flow=" + flow.get("id").asLong())
                            .get("total")
                            .asInt(),
                    1);
            assertTrue(started.get("runId").asLong() > 0);
            sent("DELETE", "/api/triggers/" + trigger.get("id").asLong(), null, 0);

            // asked at one server, done at the other
            world.registerKnobs().latencyMillis = 60;
            JsonNode long_ = flow("Long at the second", file -> delivery(file).put("atOnce", 1));
            JsonNode paused =
                    other.post("/api/flows/" + long_.get("id").asLong() + "/runs", Map.of("environment", "Test"));
            long id = paused.get("id").asLong();
            client.post("/api/runs/" + id + "/pause", Map.of());
            until("it pauses", () -> get("/api/runs/" + id)
                    .get("run")
                    .get("state")
                    .asText()
                    .equals("paused"));

            // a run a trigger began goes on by itself at the server that is left
            publish(long_, "Test");
            JsonNode clock = trigger(long_, "clock", Map.of("cron", "0 0 1 1 *"));
            other.post("/api/runs/" + id + "/cancel", Map.of());
            JsonNode run = other.post("/api/triggers/" + clock.get("id").asLong() + "/run", Map.of());
            long taken = run.get("id").asLong();
            until(
                    "records have ended",
                    () -> get("/api/runs/" + taken).get("run").get("ended").asInt() > 5);
            second.kill();
            world.registerKnobs().latencyMillis = 0;
            until("the first server ends it", () -> get("/api/runs/" + taken)
                    .get("run")
                    .get("state")
                    .asText()
                    .equals("done"));
            JsonNode whole = get("/api/runs/" + taken).get("run");
            assertEquals(whole.get("ended").asInt(), 240, whole.toString());
        }
    }
}
