package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import org.testng.annotations.Test;

/** Callers whose requests change data, and a server that is killed while they are on their way. */
public class KilledCallersTest extends KilledRuns {
    private static final HttpClient HTTP = HttpClient.newHttpClient();
    private static final int EACH = 40;

    private JsonNode offer;

    @Override
    Reply answer(String request) {
        return transportBooked(request);
    }

    private HttpRequest request(int number, boolean later) throws IOException {
        String sample = client.get("/api/flows/" + offer.get("flow").asLong())
                .at("/file/stages/0/input/samples/0")
                .asText();
        ObjectNode body = (ObjectNode) JSON.readTree(sample);
        body.put("loanReference", String.format("HC-%05d", number));
        HttpRequest.Builder to = HttpRequest.newBuilder(
                        URI.create(product.address() + offer.get("path").asText()))
                .header("Content-Type", "application/json")
                .header("X-Api-Key", offer.get("key").asText())
                .header("Idempotency-Key", "booking-" + number)
                .POST(HttpRequest.BodyPublishers.ofString(body.toString()));
        return later ? to.header("Prefer", "respond-async").build() : to.build();
    }

    private int status(String place) {
        try {
            return asked(place).statusCode();
        } catch (Exception e) {
            throw new AssertionError(e);
        }
    }

    private HttpResponse<String> asked(String place) throws Exception {
        HttpRequest get = HttpRequest.newBuilder(URI.create(product.address() + place))
                .header("X-Api-Key", offer.get("key").asText())
                .build();
        return HTTP.send(get, HttpResponse.BodyHandlers.ofString());
    }

    /** Half of the callers wait, half ask later; each has an answer in the end, and none is booked twice unsaid. */
    @Test
    public void whatWasTakenIsAnsweredForWhereverTheServerIsKilled() throws Exception {
        offer = offeredBooking();
        long id = offer.get("flow").asLong();
        List<String> places = new ArrayList<>();
        int number = 0;
        for (int kill = 0; kill < KILLS; kill++) {
            List<CompletableFuture<HttpResponse<String>>> all = new ArrayList<>();
            for (int i = 0; i < EACH; i++) {
                all.add(HTTP.sendAsync(request(++number, i % 2 == 0), HttpResponse.BodyHandlers.ofString()));
            }
            int after = number - EACH + 1 + random.nextInt(EACH / 2);
            until("some are booked", () -> received.size() >= after);
            product.kill();
            for (int i = 0; i < EACH; i++) {
                try {
                    HttpResponse<String> answer = all.get(i).join();
                    if (i % 2 == 0) {
                        assertEquals(answer.statusCode(), 202, answer.body());
                        places.add(answer.headers().firstValue("Location").orElseThrow());
                    }
                } catch (RuntimeException e) {
                    // the server was killed before it could say so
                }
            }
            product.start();
            client = product.client();
        }
        int booked = 0;
        for (String place : places) {
            until("an answer at " + place, () -> status(place) != 202);
            HttpResponse<String> answer = asked(place);
            boolean doubt = answer.statusCode() == 504
                    && JSON.readTree(answer.body()).get("code").asText().equals("in-doubt");
            assertTrue(doubt || answer.statusCode() == 200, answer.body());
            booked += doubt ? 0 : 1;
        }
        assertTrue(booked > 0, "some of those who ask later are booked");
        Set<String> doubtful = new HashSet<>();
        for (int i = 1; i <= number; i++) {
            // whoever asks again under its name gets what became of it, or is taken now for the first time
            HttpRequest again = request(i, false);
            until("an end of " + i, () -> {
                try {
                    return HTTP.send(again, HttpResponse.BodyHandlers.discarding())
                                    .statusCode()
                            != 409;
                } catch (Exception e) {
                    throw new AssertionError(e);
                }
            });
            HttpResponse<String> answer = HTTP.send(again, HttpResponse.BodyHandlers.ofString());
            assertTrue(answer.statusCode() == 200 || answer.statusCode() == 504, answer.body());
            if (answer.statusCode() == 504) {
                doubtful.add(String.format("HC-%05d", i));
            }
        }
        Map<String, Integer> times = new HashMap<>();
        received.forEach(loan -> times.merge(loan, 1, Integer::sum));
        for (int i = 1; i <= number; i++) {
            String loan = String.format("HC-%05d", i);
            // what is claimed and not sent yet is in doubt, too
            assertTrue(times.containsKey(loan) || doubtful.contains(loan), loan + " is at the desk, or in doubt");
        }
        times.forEach((loan, count) -> assertEquals(count.intValue(), 1, loan + " is booked once"));
        for (JsonNode run : client.get("/api/runs?size=100&flow=" + id).get("items")) {
            balance("/api/runs/" + run.get("id").asLong(), run);
        }
    }

    @Override
    void balance(String path, JsonNode run) {
        balanced(run);
    }
}
