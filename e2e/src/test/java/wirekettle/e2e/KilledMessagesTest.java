package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.core.value.DocumentForm;

/** Messages whose records change data, and a server that is killed while they are on their way. */
public class KilledMessagesTest extends KilledRuns {
    private static final int EACH = 60;
    private OwnBroker own;

    @BeforeClass(dependsOnMethods = "start")
    public void broker() throws Exception {
        own = new OwnBroker();
        own.known(client);
    }

    @AfterClass(alwaysRun = true)
    public void brokerStops() throws Exception {
        own.close();
    }

    @Override
    Reply answer(String request) {
        return transportBooked(request);
    }

    /** Each message has an answer in the end, none is lost, and none is booked twice. */
    @Test
    public void whatWasAcceptedIsAnsweredForWhereverTheServerIsKilled() throws Exception {
        long id = offeredBooking().get("flow").asLong();
        String sample = client.get("/api/flows/" + id)
                .at("/file/stages/0/input/samples/0")
                .asText();
        OwnBroker.taken(
                client,
                id,
                "bookings",
                Map.of(
                        "queue",
                        Map.of("endpoint", OwnBroker.ENDPOINT, "name", "bookings", "answers", "bookings.answers")));
        int number = 0;
        for (int kill = 0; kill < KILLS; kill++) {
            List<QueueMessage> some = new ArrayList<>();
            for (int i = 0; i < EACH; i++) {
                String loan = String.format("HC-%05d", ++number);
                ObjectNode body = (ObjectNode) JSON.readTree(sample);
                body.put("loanReference", loan);
                some.add(QueueMessage.of(DocumentForm.JSON, body.toString(), loan, Map.of()));
            }
            own.send("bookings", some.toArray(QueueMessage[]::new));
            int after = number - EACH + 1 + random.nextInt(EACH / 2);
            until("some are booked", () -> received.size() >= after);
            product.kill();
            product.start();
            client = product.client();
        }
        Map<String, QueueMessage> answers = new HashMap<>();
        while (answers.size() < number) {
            int left = number - answers.size();
            List<QueueMessage> more = own.read("bookings.answers", left);
            assertTrue(more.size() >= left, "there are more answers");
            more.forEach(each -> answers.put(each.correlation(), each));
        }
        assertEquals(own.broker().left("bookings"), 0);
        Map<String, Integer> times = new HashMap<>();
        received.forEach(loan -> times.merge(loan, 1, Integer::sum));
        times.forEach((loan, count) -> assertEquals(count.intValue(), 1, loan + " is booked once"));
        Set<String> doubtful = new HashSet<>();
        for (int i = 1; i <= number; i++) {
            String loan = String.format("HC-%05d", i);
            QueueMessage answer = answers.get(loan);
            String status = answer.properties().get("status");
            assertTrue(status.equals("200") || answer.text().contains("in-doubt"), answer.text());
            if (!status.equals("200")) {
                doubtful.add(loan);
            }
            assertTrue(times.containsKey(loan) || doubtful.contains(loan), loan + " is at the desk, or in doubt");
        }
        assertTrue(doubtful.size() < number, "most are booked");
        for (JsonNode run : client.get("/api/runs?size=100&flow=" + id).get("items")) {
            balance("/api/runs/" + run.get("id").asLong(), run);
        }
    }

    @Override
    void balance(String path, JsonNode run) {
        balanced(run);
    }
}
