package wirekettle.connect.queue;

import jakarta.jms.BytesMessage;
import jakarta.jms.Connection;
import jakarta.jms.JMSException;
import jakarta.jms.Message;
import jakarta.jms.MessageConsumer;
import jakarta.jms.Session;
import jakarta.jms.TextMessage;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.apache.qpid.jms.JmsQueue;
import org.apache.qpid.jms.message.JmsMessage;
import org.apache.qpid.jms.provider.amqp.message.AmqpJmsMessageFacade;

/**
 * Takes messages from a queue. One that is not accepted belongs to the queue: it is given again once this is closed, or
 * gone. For one thread.
 */
public final class QueueReader implements AutoCloseable {
    private static final byte[] NOTHING = {};
    /** The client's mode in which each message is accepted by itself. */
    private static final int ACCEPT_EACH = 101;

    /** A message that was given and not accepted yet. */
    public record Given(QueueMessage message, Accepting accepting) {}

    /** Says that a message was taken. */
    public interface Accepting {
        /** Takes it from the queue. */
        void accept() throws IOException;
    }

    private final Connection connection;
    private final MessageConsumer consumer;

    QueueReader(Connection connection, String queue) throws JMSException {
        this.connection = connection;
        Session session = connection.createSession(ACCEPT_EACH);
        this.consumer = session.createConsumer(new JmsQueue(queue));
    }

    /**
     * Returns messages, waiting for the first of them.
     *
     * @param most how many at most
     * @param millis how long is waited
     */
    public List<Given> take(int most, long millis) throws IOException {
        List<Given> all = new ArrayList<>();
        try {
            Message next = consumer.receive(millis);
            while (next != null) {
                Message given = next;
                all.add(new Given(read(given), () -> accept(given)));
                next = all.size() < most ? consumer.receiveNoWait() : null;
            }
            return all;
        } catch (JMSException e) {
            throw new IOException(e.getMessage(), e);
        }
    }

    private static void accept(Message message) throws IOException {
        try {
            message.acknowledge();
        } catch (JMSException e) {
            throw new IOException(e.getMessage(), e);
        }
    }

    private static QueueMessage read(Message message) throws JMSException {
        Map<String, String> properties = new LinkedHashMap<>();
        for (Object each : Collections.list(message.getPropertyNames())) {
            String name = (String) each;
            if (!name.startsWith("JMS")) {
                properties.put(name, String.valueOf(message.getObjectProperty(name)));
            }
        }
        byte[] body = NOTHING;
        String problem = null;
        if (message instanceof TextMessage text) {
            // as text it is decoded: what an XML declaration says of its encoding is not so any more
            String said = text.getText() == null ? "" : text.getText();
            body = said.replaceFirst("^(<\\?xml[^>]*?)\\s+encoding\\s*=\\s*(\"[^\"]*\"|'[^']*')", "$1")
                    .getBytes(StandardCharsets.UTF_8);
        } else if (message instanceof BytesMessage bytes) {
            body = new byte[Math.toIntExact(bytes.getBodyLength())];
            bytes.readBytes(body);
        } else {
            problem = "it is neither text nor bytes, but a map, a list or an object";
        }
        int deliveries = message.propertyExists("JMSXDeliveryCount") ? message.getIntProperty("JMSXDeliveryCount") : 1;
        return new QueueMessage(
                message.getJMSMessageID(),
                message.getJMSCorrelationID(),
                message.getJMSReplyTo() instanceof JmsQueue queue ? queue.getQueueName() : null,
                type(message),
                body,
                properties,
                deliveries,
                problem);
    }

    private static String type(Message message) {
        return message instanceof JmsMessage its
                        && its.getFacade() instanceof AmqpJmsMessageFacade facade
                        && facade.getContentType() != null
                ? facade.getContentType().toString()
                : null;
    }

    @Override
    public void close() {
        Closing.quietly(connection);
    }
}
