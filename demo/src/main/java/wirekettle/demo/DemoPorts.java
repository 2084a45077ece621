package wirekettle.demo;

import java.io.IOException;
import java.net.BindException;
import java.security.GeneralSecurityException;
import java.time.Clock;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import wirekettle.connect.SimulatorHost;
import wirekettle.core.simulate.Simulator;
import wirekettle.demo.gates.LoginGate;
import wirekettle.demo.gates.SecurityGate;
import wirekettle.demo.gates.SessionGate;
import wirekettle.demo.gates.TokenDesk;

/**
 * The ports of the simulated services that ask something of their callers: logins at the Register, TLS and WS-Security
 * at Vanline Desk, and the desk that gives tokens.
 */
public final class DemoPorts implements AutoCloseable {
    private final SimulatorHost plain;
    private final Map<String, Simulator> simulators;
    private final SimulatorHost tls;
    private final SimulatorHost mutual;
    private final Map<String, SimulatorHost> others = new LinkedHashMap<>();
    private final SessionGate sessions = new SessionGate(DemoLogins.TOKEN_PASSWORD, 200);
    private final TokenDesk tokens = new TokenDesk(DemoLogins.CLIENT, DemoLogins.CLIENT_SECRET);

    DemoPorts(SimulatorHost plain, Map<String, Simulator> simulators) throws IOException {
        this.plain = plain;
        this.simulators = simulators;
        try {
            int port = plain.port();
            tls = host(port + 1, "server", false);
            mutual = host(port + 2, "server", true);
            logins();
            security();
        } catch (GeneralSecurityException e) {
            throw new IOException("the demo's own keys are broken: " + e.getMessage(), e);
        }
    }

    private static SimulatorHost host(int port, String key, boolean wantsClient)
            throws IOException, GeneralSecurityException {
        try {
            return new SimulatorHost(port, DemoLogins.tls(key), wantsClient);
        } catch (BindException e) {
            return new SimulatorHost(0, DemoLogins.tls(key), wantsClient);
        }
    }

    private void add(SimulatorHost host, String name, String service, SimulatorHost.Gate gate) {
        host.add(name, () -> simulators.get(service), gate, SimulatorHost.Recorder.NONE);
    }

    private void logins() {
        Set<String> good = tokens.tokens();
        good.add(DemoLogins.FIXED_TOKEN);
        add(plain, "register-basic", "register", login(LoginGate.Kind.BASIC));
        add(plain, "register-digest", "register", login(LoginGate.Kind.DIGEST_SHA256));
        add(plain, "register-digest-md5", "register", login(LoginGate.Kind.DIGEST_MD5));
        add(plain, "register-token", "register", login(LoginGate.Kind.BEARER));
        add(plain, "rates-token", "rates", login(LoginGate.Kind.BEARER));
        add(plain, "token", "register", tokens);
    }

    private LoginGate login(LoginGate.Kind kind) {
        return new LoginGate(kind, DemoLogins.USER, DemoLogins.PASSWORD, tokens.tokens());
    }

    private void security() throws IOException, GeneralSecurityException {
        String user = DemoLogins.USER;
        String password = DemoLogins.TOKEN_PASSWORD;
        var authority = DemoLogins.authority();
        Clock clock = Clock.systemUTC();
        add(
                plain,
                "vanline-strict",
                "vanline",
                gate(new SecurityGate.Wants(false, null, null, null, false, null), clock));
        add(
                plain,
                "vanline-text",
                "vanline",
                gate(new SecurityGate.Wants(true, "text", user, password, false, null), clock));
        add(
                plain,
                "vanline-digest",
                "vanline",
                gate(new SecurityGate.Wants(true, "digest", user, password, true, null), clock));
        add(
                plain,
                "vanline-behind",
                "vanline",
                gate(
                        new SecurityGate.Wants(true, null, null, null, true, null),
                        Clock.offset(clock, Duration.ofMinutes(-7))));
        add(
                plain,
                "vanline-signed",
                "vanline",
                new SecurityGate(
                        new SecurityGate.Wants(true, null, null, null, true, authority),
                        clock,
                        DemoLogins.key("stamp"),
                        DemoLogins.certificate("stamp")));
        add(plain, "vanline-session", "vanline", sessions);
        add(tls, "vanline", "vanline", SimulatorHost.Gate.OPEN);
        add(mutual, "vanline", "vanline", SimulatorHost.Gate.OPEN);
    }

    private static SecurityGate gate(SecurityGate.Wants wants, Clock clock) {
        return new SecurityGate(wants, clock, null, null);
    }

    /** Returns the sessions of the desk that wants one. */
    public SessionGate sessions() {
        return sessions;
    }

    /** Returns the address of a port over plain HTTP, as {@code register-basic} or {@code vanline-signed}. */
    public String address(String name) {
        return plain.address(name);
    }

    /** Returns Vanline Desk's address over TLS, with a certificate of its own authority. */
    public String tls() {
        return tls.address("vanline");
    }

    /** Returns Vanline Desk's address over TLS that wants a client certificate. */
    public String mutualTls() {
        return mutual.address("vanline");
    }

    /** Starts Vanline Desk with another key, as {@code expired}, {@code other-name} or {@code self-signed}. */
    public synchronized String tlsWith(String key) throws IOException {
        try {
            if (!others.containsKey(key)) {
                SimulatorHost host = new SimulatorHost(0, DemoLogins.tls(key), false);
                add(host, "vanline", "vanline", SimulatorHost.Gate.OPEN);
                others.put(key, host);
            }
            return others.get(key).address("vanline");
        } catch (GeneralSecurityException e) {
            throw new IOException(e);
        }
    }

    /** Returns the desk that gives tokens. */
    public TokenDesk tokens() {
        return tokens;
    }

    @Override
    public void close() {
        tls.close();
        mutual.close();
        others.values().forEach(SimulatorHost::close);
    }
}
