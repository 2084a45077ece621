package wirekettle.demo;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.connect.EndpointTest;
import wirekettle.connect.HostRule;
import wirekettle.connect.HttpTransport;
import wirekettle.connect.Probe;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;

/** The desk that wants a session, over HTTP. */
public class SessionsTest {
    private DemoWorld world;

    @BeforeClass
    public void start() throws IOException {
        world = new DemoWorld(0);
    }

    @AfterClass(alwaysRun = true)
    public void stop() {
        world.close();
    }

    private EndpointReach reach(String password) {
        Secrets secrets = new Secrets() {
            @Override
            public String text(String name) {
                return password;
            }

            @Override
            public KeyMaterial key(String name) {
                throw new SecretMissing(name);
            }
        };
        EndpointSettings settings = new ObjectMapper().convertValue(DemoLogins.session(), EndpointSettings.class);
        return EndpointReach.of(world.ports().address("vanline-session"), settings, secrets, Clock.systemUTC());
    }

    private Caller.Result open(EndpointReach reach) {
        return open(reach, new HttpTransport(HostRule.ANY, reach));
    }

    private Caller.Result open(EndpointReach reach, Transport transport) {
        Contract contract = world.vanline().contract();
        Offered offered = contract.operation(null, null, "OpenDay").orElseThrow();
        String text = ExampleEnvelope.of(contract, offered.operation().input(), true, Picks.NONE)
                .text(offered.port().soapVersion(), false);
        return Caller.of(new HttpTransport(HostRule.ANY, reach), reach, contract, offered, Transport.Limits.DEFAULT)
                .call(text.getBytes(StandardCharsets.UTF_8));
    }

    /** A token of this desk is good for 200 calls: whoever finds it used up begins the next for all. */
    @Test
    public void aThousandCallsShareFewSessionsAndNoneOfThemFails() throws Exception {
        EndpointReach reach = reach(DemoLogins.TOKEN_PASSWORD);
        // one for all, as in the server: the desk closes connections of which it has too many
        Transport transport = new HttpTransport(HostRule.ANY, reach);
        int before = world.ports().sessions().given();
        ConcurrentLinkedQueue<String> failures = new ConcurrentLinkedQueue<>();
        List<Thread> threads = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            Thread thread = new Thread(() -> {
                for (int n = 0; n < 125; n++) {
                    Caller.Result result = open(reach, transport);
                    if (result.failure() != null) {
                        failures.add(result.failure().getMessage());
                    }
                }
            });
            thread.start();
            threads.add(thread);
        }
        for (Thread thread : threads) {
            thread.join();
        }
        assertEquals(String.join("\n", failures), "");
        int given = world.ports().sessions().given() - before;
        assertTrue(given >= 5 && given <= 7, given + " sessions for 1,000 calls of 200 each");
    }

    @Test
    public void theTestOfAnEndpointSignsOnAndOff() {
        int ended = world.ports().sessions().ended();
        Probe works = EndpointTest.of(HostRule.ANY, reach(DemoLogins.TOKEN_PASSWORD), SoapVersion.SOAP_11);
        assertEquals(last(works).name(), "session", works.toString());
        assertTrue(works.works(), works.toString());
        assertEquals(world.ports().sessions().ended(), ended + 1);
        Probe fails = EndpointTest.of(HostRule.ANY, reach("wrong"), SoapVersion.SOAP_11);
        assertFalse(last(fails).works(), fails.toString());
        assertTrue(last(fails).detail().contains("is not known"), fails.toString());
    }

    private static Probe.Step last(Probe probe) {
        return probe.steps().get(probe.steps().size() - 1);
    }

    @Test
    public void aDeskThatRefusesEverySessionIsDownAndComesBack() {
        EndpointReach reach = reach(DemoLogins.TOKEN_PASSWORD);
        world.ports().sessions().refuseAll(true);
        Caller.Result refused = open(reach);
        world.ports().sessions().refuseAll(false);
        assertEquals(refused.failure().causeLabel(), "session refused");
        assertFalse(refused.failure().sent(), "nothing took effect");
        assertNull(open(reach).failure());
    }

    @Test
    public void theDemosSettingsNameTheirSecret() {
        EndpointSettings settings = new ObjectMapper().convertValue(DemoLogins.session(), EndpointSettings.class);
        assertEquals(settings.secrets(), java.util.Set.of("vanline password"));
        assertEquals(
                new ObjectMapper()
                        .convertValue(new ObjectMapper().convertValue(settings, Map.class), EndpointSettings.class),
                settings);
    }
}
