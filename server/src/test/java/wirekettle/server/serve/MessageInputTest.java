package wirekettle.server.serve;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.core.record.InputReader;
import wirekettle.core.record.InputShape;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;
import wirekettle.server.triggers.TriggerSpec;

public class MessageInputTest {
    private static final long MOST = 1_000;
    private final InputReader reader = new InputReader(
            new InputShape(
                    List.of(
                            new Column("loan", "loan", ScalarType.STRING, null, false),
                            new Column("tenant", "tenant", ScalarType.STRING, null, false)),
                    List.of(),
                    List.of()),
            "input");

    private static MessageInput input(String more) throws Exception {
        String spec = "{\"queue\": {\"endpoint\": \"b\", \"name\": \"q\", \"answers\": \"a\"}" + more + "}";
        return new MessageInput(new ObjectMapper().readValue(spec, TriggerSpec.class));
    }

    private static QueueMessage message(String id, String type, String body, int deliveries) {
        return new QueueMessage(
                id, null, null, type, body.getBytes(StandardCharsets.UTF_8), Map.of("desk", "HC07"), deliveries, null);
    }

    private Asked asked(QueueMessage message) throws Exception {
        return input("").asked(reader, MOST, message, "n", null);
    }

    @Test
    public void aMessageIsARecordWithItsPropertiesAndWhereItsAnswerGoes() throws Exception {
        Asked asked = input(", \"headers\": [{\"header\": \"desk\", \"field\": \"tenant\"}]")
                .asked(reader, MOST, message("m-1", null, " <a><loan>HC-1</loan></a>", 1), "m-1", null);
        assertNull(asked.problem());
        assertEquals(asked.input().textOf("loan"), "HC-1");
        assertEquals(asked.input().textOf("tenant"), "HC07");
        assertEquals(asked.replyTo(), "a");
        assertEquals(asked.correlation(), "m-1");
        assertTrue(asked.later() && asked.kept());
        QueueMessage own = new QueueMessage(
                "m-2", "c-2", "theirs", "application/json", "{\"loan\": \"HC-2\"}".getBytes(), Map.of(), 1, null);
        assertEquals(asked(own).replyTo(), "theirs");
        assertEquals(asked(own).correlation(), "c-2");
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {message("m", null, "HC-1", 1), "it is no JSON"},
            {message("m", "application/xml", "HC-1", 1), "it is no XML"},
            {message("m", null, "{\"loans\": 1}", 1), "/loans"},
            {message("m", null, "x".repeat(1_001), 1), "1001 bytes"},
            {message("m", null, "{\"loan\": \"HC-1\"}", 11), "given 11 times"},
            {message(null, null, "{\"loan\": \"HC-1\"}", 2), "no message id"},
            {new QueueMessage("m", null, null, null, new byte[0], Map.of(), 1, "a map"), "cannot be read: a map"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatCannotBeTakenSaysWhyAndIsKeptAsItCame(QueueMessage message, String why) throws Exception {
        Asked asked = asked(message);
        assertTrue(asked.problem().contains(why), asked.problem());
        assertEquals(asked.named(), "n");
        // it can be kept and read again
        assertTrue(asked.written().startsWith("<input"), asked.written());
    }

    @Test
    public void whatIsNoTextForXmlIsKeptAllTheSame() throws Exception {
        Asked asked = asked(message("m", null, "no\u0000text \uD800", 1));
        assertTrue(asked.written().contains("no\uFFFDtext"), asked.written());
    }
}
