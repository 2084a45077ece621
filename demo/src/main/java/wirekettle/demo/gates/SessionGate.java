package wirekettle.demo.gates;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.connect.SimulatorHost;
import wirekettle.connect.SimulatorHost.Refusal;

/**
 * Sessions as a service sees them: signing on gives a token, every other request needs one that has not been used up or
 * signed off.
 */
public final class SessionGate implements SimulatorHost.Gate {
    private static final String V = "urn:halewick:vanline:2";

    private final String password;
    private final int uses;
    private final Map<String, AtomicInteger> left = new ConcurrentHashMap<>();
    private final AtomicInteger given = new AtomicInteger();
    private final AtomicInteger ended = new AtomicInteger();
    private volatile boolean refusing;

    /**
     * Makes a gate.
     *
     * @param uses how many requests a token is good for
     */
    public SessionGate(String password, int uses) {
        this.password = password;
        this.uses = uses;
    }

    /** Returns how many sessions were begun. */
    public int given() {
        return given.get();
    }

    /** Returns how many sessions were signed off. */
    public int ended() {
        return ended.get();
    }

    /** Refuses every token from now on, or not any more. */
    public void refuseAll(boolean all) {
        refusing = all;
    }

    @Override
    public Refusal refuse(String method, String uri, Map<String, String> headers, byte[] body) {
        if (method.equals("GET")) {
            return null;
        }
        String text = new String(body, StandardCharsets.UTF_8);
        if (text.contains("SignOn>")) {
            if (!password.equals(field(text, "password"))) {
                return fault("the desk or its password is not known");
            }
            String token = "VS-" + UUID.randomUUID();
            left.put(token, new AtomicInteger(uses));
            given.incrementAndGet();
            return soap(
                    200,
                    "<SignOnResponse xmlns=\"" + V + "\"><token>" + token
                            + "</token><seconds>900</seconds></SignOnResponse>");
        }
        String token = field(text, "token");
        AtomicInteger its = token == null ? null : left.get(token);
        if (refusing || its == null || its.decrementAndGet() < 0) {
            return fault("SessionEnded: sign on first");
        }
        if (text.contains("SignOff>")) {
            left.remove(token);
            ended.incrementAndGet();
            return soap(200, "<SignOffResponse xmlns=\"" + V + "\"><status>signed off</status></SignOffResponse>");
        }
        return null;
    }

    private static String field(String text, String name) {
        Matcher found = Pattern.compile("<(?:\\w+:)?" + name + ">([^<]*)<").matcher(text);
        return found.find() ? found.group(1) : null;
    }

    private static Refusal fault(String reason) {
        return soap(500, "<s:Fault><faultcode>s:Client</faultcode><faultstring>" + reason + "</faultstring></s:Fault>");
    }

    private static Refusal soap(int status, String body) {
        return new Refusal(
                status,
                "text/xml; charset=utf-8",
                "<s:Envelope xmlns:s=\"http://schemas.xmlsoap.org/soap/envelope/\"><s:Body>" + body
                        + "</s:Body></s:Envelope>",
                Map.of());
    }
}
