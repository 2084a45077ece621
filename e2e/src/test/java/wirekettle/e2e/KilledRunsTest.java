package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.CompletableFuture;
import org.testng.annotations.Test;

/**
 * The server killed in the middle of runs that change data, at random moments, and started again. The service keeps a
 * log of its own: nothing comes twice, nothing is missing, and what has no answer is in doubt.
 */
public class KilledRunsTest extends KilledBookings {
    @Test
    public void nothingIsSentTwiceOrLostWhereverTheServerIsKilled() throws Exception {
        long flow = bookings("Killed");
        killedOften(flow);
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
}
