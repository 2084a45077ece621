package wirekettle.demo;

import java.io.IOException;
import java.net.BindException;
import java.net.ServerSocket;
import java.nio.file.Path;
import java.util.Set;
import org.apache.activemq.artemis.core.config.Configuration;
import org.apache.activemq.artemis.core.config.impl.ConfigurationImpl;
import org.apache.activemq.artemis.core.config.impl.SecurityConfiguration;
import org.apache.activemq.artemis.core.security.Role;
import org.apache.activemq.artemis.core.server.JournalType;
import org.apache.activemq.artemis.core.server.Queue;
import org.apache.activemq.artemis.core.server.embedded.EmbeddedActiveMQ;
import org.apache.activemq.artemis.core.settings.impl.AddressSettings;
import org.apache.activemq.artemis.spi.core.security.ActiveMQJAASSecurityManager;
import org.apache.activemq.artemis.spi.core.security.jaas.InVMLoginModule;

/** A broker on loopback that speaks AMQP 1.0; queues are made by whoever names them. What it has stays in its folder. */
public final class DemoBroker implements AutoCloseable {
    static {
        // what it logs goes nowhere else
        System.setProperty("log4j2.loggerContextFactory", "org.apache.logging.log4j.simple.SimpleLoggerContextFactory");
    }

    private final Path folder;
    private final int port;
    private EmbeddedActiveMQ broker;

    /**
     * Starts a broker.
     *
     * @param folder where its messages are
     * @param wanted its port; a free one is taken where somebody has it, and for 0
     */
    public DemoBroker(Path folder, int wanted) throws IOException {
        this.folder = folder;
        this.port = free(wanted);
        start();
    }

    private static int free(int wanted) throws IOException {
        try (ServerSocket socket = new ServerSocket(wanted)) {
            return socket.getLocalPort();
        } catch (BindException e) {
            return free(0);
        }
    }

    /** Starts it again after {@link #stop}: what was durable is there. */
    public void start() throws IOException {
        try {
            Configuration configuration = new ConfigurationImpl()
                    .setPersistenceEnabled(true)
                    .setJournalType(JournalType.NIO)
                    .setJournalDirectory(folder.resolve("journal").toString())
                    .setBindingsDirectory(folder.resolve("bindings").toString())
                    .setPagingDirectory(folder.resolve("paging").toString())
                    .setLargeMessagesDirectory(folder.resolve("large").toString())
                    .setJournalFileSize(1 << 20)
                    .setSecurityEnabled(true)
                    .setJMXManagementEnabled(false)
                    .addAcceptorConfiguration("amqp", "tcp://127.0.0.1:" + port + "?protocols=AMQP")
                    .addAddressSetting(
                            "#",
                            new AddressSettings()
                                    .setAutoCreateQueues(true)
                                    .setAutoCreateAddresses(true)
                                    .setAutoDeleteQueues(false)
                                    .setAutoDeleteAddresses(false)
                                    .setMaxDeliveryAttempts(-1));
            configuration.putSecurityRoles(
                    "#",
                    Set.of(new Role(
                            "users", true, true, true, true, true, true, true, true, true, true, false, false)));
            SecurityConfiguration people = new SecurityConfiguration();
            people.addUser(DemoLogins.USER, DemoLogins.PASSWORD);
            people.addRole(DemoLogins.USER, "users");
            broker = new EmbeddedActiveMQ()
                    .setConfiguration(configuration)
                    .setSecurityManager(new ActiveMQJAASSecurityManager(InVMLoginModule.class.getName(), people));
            broker.start();
        } catch (Exception e) {
            throw new IOException("the broker does not start: " + e.getMessage(), e);
        }
    }

    /** Returns its address. */
    public String address() {
        return "amqp://127.0.0.1:" + port;
    }

    /** Returns how many messages a queue has that nobody accepted. */
    public long left(String queue) {
        Queue its = broker.getActiveMQServer().locateQueue(queue);
        return its == null ? 0 : its.getMessageCount();
    }

    /** Stops it; it can be started again. */
    public void stop() throws IOException {
        try {
            broker.stop();
        } catch (Exception e) {
            throw new IOException(e);
        }
    }

    @Override
    public void close() throws IOException {
        stop();
    }
}
