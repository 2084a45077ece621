package wirekettle.connect.queue;

import jakarta.jms.Connection;
import jakarta.jms.JMSException;
import java.io.IOException;
import java.net.URI;
import java.util.Locale;
import org.apache.qpid.jms.JmsConnectionFactory;
import wirekettle.connect.HostRule;
import wirekettle.connect.ServerTrust;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.Transport;

/**
 * A broker that speaks AMQP 1.0 at an address like {@code amqp://broker.example:5672}, or {@code amqps://} for TLS; its
 * login is a user and a secret (SASL PLAIN), or the client's certificate.
 */
public final class Broker {
    private static final int PREFETCH = 100;

    private final HostRule hosts;
    private final EndpointReach reach;

    /** Takes how the broker is reached. */
    public Broker(HostRule hosts, EndpointReach reach) {
        this.hosts = hosts;
        this.reach = reach;
    }

    /**
     * Opens a queue to be read.
     *
     * @throws IOException saying why it cannot be
     */
    public QueueReader reader(String queue) throws IOException {
        Connection connection = connection();
        try {
            return new QueueReader(connection, queue);
        } catch (JMSException e) {
            throw left(connection, e, queue);
        }
    }

    /**
     * Opens a way to send messages.
     *
     * @throws IOException saying why it cannot be
     */
    public QueueWriter writer() throws IOException {
        Connection connection = connection();
        try {
            return new QueueWriter(connection);
        } catch (JMSException e) {
            throw left(connection, e, null);
        }
    }

    private IOException left(Connection connection, JMSException why, String queue) {
        Closing.quietly(connection);
        return new IOException((queue == null ? "" : "the queue " + queue + ": ") + reason(why), why);
    }

    private Connection connection() throws IOException {
        URI address;
        try {
            address = URI.create(reach.address().strip());
        } catch (IllegalArgumentException e) {
            throw new IOException("“" + reach.address() + "” is no address: " + e.getMessage(), e);
        }
        if (!EndpointReach.broker(reach.address()) || address.getHost() == null) {
            throw new IOException(
                    "“" + reach.address() + "” is no address of a broker: write it as in amqp://broker.example:5672");
        }
        hosts.check(address);
        boolean secure = address.getScheme().toLowerCase(Locale.ROOT).equals("amqps");
        // nothing of the address but host and port: options in it could turn off what is checked
        String plain = (secure ? "amqps" : "amqp") + "://" + address.getHost() + ":" + EndpointReach.port(address);
        Transport.Limits limits = reach.settings().limits(Transport.Limits.DEFAULT);
        JmsConnectionFactory factory = new JmsConnectionFactory(plain
                + "?jms.prefetchPolicy.all=" + PREFETCH
                + "&jms.connectTimeout=" + limits.connectMillis()
                + "&transport.connectTimeout=" + limits.connectMillis()
                + "&jms.requestTimeout=" + limits.wholeMillis()
                + "&jms.sendTimeout=" + limits.wholeMillis()
                + "&jms.closeTimeout=2000"
                + "&jms.validatePropertyNames=false"
                + (secure ? "&transport.verifyHost=" + !reach.settings().tls().anyHostName() : ""));
        ServerTrust trust = secure ? ServerTrust.of(reach) : null;
        if (secure) {
            factory.setSslContext(trust.context(reach.clientKey()));
        }
        EndpointSettings.Login login = reach.settings().login();
        if (login.user() != null && !login.user().isBlank()) {
            factory.setUsername(login.user());
            factory.setPassword(reach.loginSecret());
        }
        try {
            Connection connection = factory.createConnection();
            try {
                connection.start();
                return connection;
            } catch (JMSException e) {
                Closing.quietly(connection);
                throw e;
            }
        } catch (JMSException e) {
            String unknown = trust == null || trust.refused(address.getHost()) == null
                    ? reason(e)
                    : trust.refused(address.getHost()).getMessage();
            throw new IOException("no connection to " + EndpointReach.destination(reach.address()) + ": " + unknown, e);
        }
    }

    private String reason(JMSException e) {
        Throwable last = e;
        while (last.getCause() != null && last.getCause().getMessage() != null) {
            last = last.getCause();
        }
        return reach.masking().mask(String.valueOf(last.getMessage()));
    }
}
