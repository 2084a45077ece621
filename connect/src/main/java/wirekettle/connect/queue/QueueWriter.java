package wirekettle.connect.queue;

import jakarta.jms.BytesMessage;
import jakarta.jms.Connection;
import jakarta.jms.DeliveryMode;
import jakarta.jms.JMSException;
import jakarta.jms.MessageProducer;
import jakarta.jms.Session;
import java.io.IOException;
import java.util.Map;
import org.apache.qpid.jms.JmsQueue;
import org.apache.qpid.jms.message.JmsMessage;
import org.apache.qpid.jms.provider.amqp.message.AmqpJmsMessageFacade;
import org.apache.qpid.proton.amqp.Symbol;

/** Sends messages, durable and several together: all of them or none. For one thread. */
public final class QueueWriter implements AutoCloseable {
    private final Connection connection;
    private final Session session;
    private final MessageProducer producer;

    QueueWriter(Connection connection) throws JMSException {
        this.connection = connection;
        this.session = connection.createSession(Session.SESSION_TRANSACTED);
        this.producer = session.createProducer(null);
        producer.setDeliveryMode(DeliveryMode.PERSISTENT);
    }

    /** Sends a message; it is there after {@link #commit}. */
    public void send(String queue, QueueMessage message) throws IOException {
        try {
            BytesMessage sent = session.createBytesMessage();
            sent.writeBytes(message.body());
            sent.setJMSCorrelationID(message.correlation());
            if (message.type() != null
                    && sent instanceof JmsMessage its
                    && its.getFacade() instanceof AmqpJmsMessageFacade facade) {
                facade.setContentType(Symbol.valueOf(message.type()));
            }
            for (Map.Entry<String, String> each : message.properties().entrySet()) {
                sent.setStringProperty(each.getKey(), each.getValue());
            }
            producer.send(new JmsQueue(queue), sent);
        } catch (JMSException e) {
            throw new IOException("the queue " + queue + ": " + e.getMessage(), e);
        }
    }

    /** Makes what was sent be there, all of it or none. */
    public void commit() throws IOException {
        try {
            session.commit();
        } catch (JMSException e) {
            throw new IOException(e.getMessage(), e);
        }
    }

    @Override
    public void close() {
        Closing.quietly(connection);
    }
}
