package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.expectThrows;

import java.time.Clock;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.core.soap.security.Secrets;

/** Secrets that stand for those fills name, behind the rules about where each may be sent. */
public class StandInSecretsTest {
    private static final Secrets STORE = new Secrets() {
        @Override
        public String text(String name) {
            throw new SecretElsewhere(name, null);
        }

        @Override
        public Secrets sentTo(String destination) {
            return name -> {
                if (name.equals("licence live") && !destination.equals("live.invalid:443")) {
                    throw new SecretElsewhere(name, destination);
                }
                return "value of " + name;
            };
        }
    };

    private static EndpointReach at(String address, Secrets secrets) {
        return EndpointReach.of(address, EndpointSettings.PLAIN, secrets, Clock.systemUTC())
                .withStandIns(Map.of("licence", "licence live"));
    }

    @Test
    public void fillsGetTheOtherOneAndSettingsTheirOwn() {
        EndpointReach reach = at("https://live.invalid/desk", STORE);
        assertEquals(reach.secrets().ofFills().text("licence"), "value of licence live");
        assertEquals(reach.secrets().ofFills().text("another"), "value of another");
        assertEquals(reach.secret("licence"), "value of licence");
        assertEquals(reach.masking().mask("<a>value of licence live</a>"), "<a>•••••</a>", "what was given is hidden");
    }

    @Test
    public void itMayBeSentWhereItMayBeSentItself() {
        EndpointReach reach = at("https://test.invalid/desk", STORE);
        Secrets.SecretElsewhere refused = expectThrows(
                Secrets.SecretElsewhere.class, () -> reach.secrets().ofFills().text("licence"));
        assertEquals(refused.name(), "licence live");
        assertEquals(refused.destination(), "test.invalid:443");
    }

    @Test
    public void aSimulatorGetsAPlaceholderForEither() {
        EndpointReach reach = at("http://simulator.invalid/", Secrets.STAND_INS);
        assertEquals(reach.secrets().ofFills().text("licence"), "stand-in-for-licence");
        assertSame(reach.withStandIns(Map.of("a", "b")), reach);
    }
}
