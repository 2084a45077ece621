package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.security.SecurityFault;

/** Faults about headers told apart, and endpoint settings kept as they are. */
public class SecurityFaultTest {
    private static final Instant NOW = Instant.parse("2026-11-23T09:14:02Z");

    @DataProvider
    public Object[][] faults() {
        return new Object[][] {
            {"FailedAuthentication", Map.of(), "wrong user name or password", "user name or the password"},
            {"Sender/FailedAuthentication", Map.of(), "wrong user name or password", "user name or the password"},
            {"MustUnderstand", Map.of(), "header not understood", "must understand"},
            {"MessageExpired", Map.of(), "timestamp refused", "both clocks agree"},
            {"MessageExpired", Map.of("date", "Mon, 23 Nov 2026 09:14:20 GMT"), "timestamp refused", "both clocks agree"
            },
            {"MessageExpired", Map.of("date", "Mon, 23 Nov 2026 09:21:02 GMT"), "clocks differ", "7 minutes ahead of"},
            {"MessageExpired", Map.of("date", "Mon, 23 Nov 2026 09:12:32 GMT"), "clocks differ", "90 seconds behind"},
            {"MessageExpired", Map.of("date", "some day"), "timestamp refused", "lifetime"},
            {"FailedCheck", Map.of(), "signature refused", "the key"},
            {"InvalidSecurity", Map.of(), "security header refused", "settings"},
        };
    }

    @Test(dataProvider = "faults")
    public void aFaultAboutAHeaderTellsWhatToDo(String code, Map<String, String> headers, String cause, String advice) {
        SecurityFault told = SecurityFault.of(code, "", headers, NOW);
        assertEquals(told.cause(), cause);
        assertTrue(told.advice().contains(advice), told.advice());
    }

    @Test
    public void anyOtherFaultIsNotAboutSecurity() {
        assertNull(SecurityFault.of("Client", "", Map.of(), NOW));
        assertTrue(SecurityFault.of("MustUnderstand", "the header x:Desk", Map.of(), NOW)
                .advice()
                .contains("the header x:Desk"));
    }

    @Test
    public void settingsAreWrittenShortAndReadBackTheSame() throws Exception {
        ObjectMapper json = new ObjectMapper();
        EndpointSettings settings = new EndpointSettings(
                new EndpointSettings.Limits(100, null, null, 2, null),
                new EndpointSettings.Proxy("gate:8080", null, null),
                "UTF-16",
                List.of(new EndpointSettings.Header("X-Desk", null, "desk key")),
                List.of("<a xmlns='urn:a'>{secret:one} and {secret: two }</a>"),
                new EndpointSettings.Login(EndpointSettings.Login.Kind.DIGEST, "ada", "password", null, null),
                new EndpointSettings.Tls(null, List.of("00"), "client key", true),
                new EndpointSettings.Security(
                        EndpointSettings.Security.Token.TEXT, "ada", "token", 60, "sign key", null, true),
                true,
                false);
        assertEquals(json.readValue(json.writeValueAsString(settings), EndpointSettings.class), settings);
        assertEquals(
                List.copyOf(settings.secrets()),
                List.of("desk key", "one", "two", "password", "client key", "token", "sign key"));
        assertEquals(json.readValue("{}", EndpointSettings.class), EndpointSettings.PLAIN);
        assertEquals(
                json.readValue(json.writeValueAsString(EndpointSettings.PLAIN), EndpointSettings.class),
                EndpointSettings.PLAIN);
        assertEquals(settings.limits(Transport.Limits.DEFAULT).connectMillis(), 100);
        assertEquals(settings.limits(Transport.Limits.DEFAULT).maxBytes(), 2L << 20);
    }
}
