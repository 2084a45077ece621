package wirekettle.demo;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertThrows;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.connect.HostRefused;
import wirekettle.connect.HostRule;
import wirekettle.connect.queue.Broker;
import wirekettle.connect.queue.QueueMessage;
import wirekettle.connect.queue.QueueReader;
import wirekettle.connect.queue.QueueWriter;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.DocumentForm;

public class QueuesTest {
    private DemoBroker started;

    @BeforeClass
    public void start() throws IOException {
        Path folder = Files.createTempDirectory("broker");
        started = new DemoBroker(folder, 0);
    }

    @AfterClass
    public void stop() throws IOException {
        started.close();
    }

    private Broker broker(HostRule hosts, String password) {
        EndpointSettings settings = new EndpointSettings(
                null,
                null,
                null,
                null,
                null,
                new EndpointSettings.Login(
                        EndpointSettings.Login.Kind.BASIC, DemoLogins.USER, "broker password", null, null),
                null,
                null,
                false,
                false);
        Secrets secrets = new Secrets() {
            @Override
            public String text(String name) {
                return password;
            }

            @Override
            public KeyMaterial key(String name) {
                throw new IllegalStateException();
            }
        };
        return new Broker(hosts, EndpointReach.of(started.address(), settings, secrets, Clock.systemUTC()));
    }

    private Broker broker() {
        return broker(HostRule.ANY, DemoLogins.PASSWORD);
    }

    private void send(String queue, String... bodies) throws IOException {
        try (QueueWriter writer = broker().writer()) {
            for (String body : bodies) {
                writer.send(queue, QueueMessage.of(DocumentForm.JSON, body, "c-1", Map.of("loan-desk", "Halewick")));
            }
            writer.commit();
        }
    }

    @Test
    public void aMessageComesWithAllItSays() throws IOException {
        send("all", "{\"loan\": \"Zürich\"}");
        try (QueueReader reader = broker().reader("all")) {
            List<QueueReader.Given> given = reader.take(10, 5_000);
            assertEquals(given.size(), 1);
            QueueMessage message = given.get(0).message();
            assertEquals(message.text(), "{\"loan\": \"Zürich\"}");
            assertEquals(message.type(), "application/json");
            assertEquals(message.correlation(), "c-1");
            assertEquals(message.properties(), Map.of("loan-desk", "Halewick"));
            assertEquals(message.deliveries(), 1);
            assertTrue(message.id().length() > 8, message.id());
            given.get(0).accepting().accept();
        }
        assertEquals(started.left("all"), 0);
    }

    @Test
    public void whatIsNotAcceptedIsGivenAgain() throws IOException {
        send("again", "1", "2", "3");
        String second;
        try (QueueReader reader = broker().reader("again")) {
            List<QueueReader.Given> given = reader.take(10, 5_000);
            assertEquals(given.size(), 3);
            second = given.get(1).message().id();
            given.get(0).accepting().accept();
            given.get(2).accepting().accept();
        }
        try (QueueReader reader = broker().reader("again")) {
            List<QueueReader.Given> given = reader.take(10, 5_000);
            assertEquals(given.size(), 1);
            assertEquals(given.get(0).message().id(), second);
        }
    }

    @Test
    public void allOfWhatIsSentIsThereOrNothing() throws IOException {
        try (QueueWriter writer = broker().writer()) {
            writer.send("none", QueueMessage.of(DocumentForm.XML, "<loan/>", null, Map.of()));
        }
        try (QueueReader reader = broker().reader("none")) {
            assertEquals(reader.take(10, 200), List.of());
        }
    }

    @Test
    public void whatIsWrongIsSaid() {
        IOException login = expectThrows(
                IOException.class, () -> broker(HostRule.ANY, "wrong").reader("any"));
        assertTrue(login.getMessage().contains("no connection to 127.0.0.1"), login.getMessage());
        assertThrows(HostRefused.class, () -> broker(HostRule.of(List.of("elsewhere.example")), "any")
                .writer());
        IOException address = expectThrows(
                IOException.class, () -> new Broker(HostRule.ANY, EndpointReach.plain("http://127.0.0.1:1")).writer());
        assertTrue(address.getMessage().contains("no address of a broker"), address.getMessage());
    }

    @Test(dependsOnMethods = {"aMessageComesWithAllItSays", "whatIsNotAcceptedIsGivenAgain", "whatIsWrongIsSaid"})
    public void aBrokerThatRestartsHasWhatWasDurable() throws IOException {
        send("durable", "{}");
        QueueReader before = broker().reader("durable");
        List<QueueReader.Given> given = before.take(1, 5_000);
        started.stop();
        assertThrows(IOException.class, () -> given.get(0).accepting().accept());
        before.close();
        started.start();
        try (QueueReader reader = broker().reader("durable")) {
            assertEquals(reader.take(1, 5_000).size(), 1);
        }
    }
}
