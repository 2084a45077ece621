package wirekettle.core.soap;

import java.net.URI;
import java.time.Clock;
import java.util.Locale;
import java.util.Map;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;

/**
 * All it takes to reach an endpoint in one environment.
 *
 * @param address where it is
 * @param settings what reaching it takes
 * @param secrets where the secrets the settings name come from; asked here, they are given for this address only
 * @param masking hides every secret that was given, in what is shown, kept and mapped
 * @param clock tells the time for timestamps
 * @param folders where the files messages send come from, and contents of replies go
 * @param session the session calls are made in, shared by all who reach the endpoint this way; null for none
 */
public record EndpointReach(
        String address,
        EndpointSettings settings,
        Secrets secrets,
        Masking masking,
        Clock clock,
        Folders folders,
        Session session) {
    /** Makes a reach whose calls are made in a session where the settings say so. */
    public EndpointReach(
            String address, EndpointSettings settings, Secrets secrets, Masking masking, Clock clock, Folders folders) {
        this(
                address,
                settings,
                secrets,
                masking,
                clock,
                folders,
                settings.session() == null ? null : new Session(settings.session()));
    }

    /** Returns this reach outside its session, hiding nothing but what is hidden there. */
    EndpointReach alone(Masking other) {
        return new EndpointReach(address, settings.withoutSession(), secrets, other, clock, folders, null);
    }

    /** Returns this reach with a session of its own, where it has one: for a test nobody else is to notice. */
    public EndpointReach afresh() {
        return new EndpointReach(address, settings, secrets, masking, clock, folders);
    }

    /** Returns a text with the token of this thread's call where it wants one. */
    public String inSession(String text) {
        String token = session == null ? null : session.current();
        return token == null || text == null ? text : text.replace(Session.MARK, token);
    }

    /** An address that takes nothing special. */
    public static EndpointReach plain(String address) {
        return new EndpointReach(
                address, EndpointSettings.PLAIN, Secrets.NONE, new Masking(), Clock.systemUTC(), Folders.NONE);
    }

    /** Returns this reach with folders. */
    public EndpointReach with(Folders others) {
        return new EndpointReach(address, settings, secrets, masking, clock, others, session);
    }

    /** Returns this reach with secrets standing for those fills name; a simulator gets a placeholder for any. */
    public EndpointReach withStandIns(Map<String, String> standIns) {
        return standIns.isEmpty() || provesNothing()
                ? this
                : new EndpointReach(
                        address, settings, secrets.withStandIns(standIns), masking, clock, folders, session);
    }

    /**
     * Returns how an endpoint is reached, with every secret it uses hidden.
     *
     * @throws Secrets.SecretMissing when the settings name a secret that does not exist, or may not be sent there
     */
    public static EndpointReach of(String address, EndpointSettings settings, Secrets secrets, Clock clock) {
        EndpointReach reach = new EndpointReach(address, settings, secrets, new Masking(), clock, Folders.NONE);
        // read now, so that what cannot be used is told before anything is prepared
        reach.clientKey();
        reach.signKey();
        String login = reach.loginSecret();
        if (settings.login().user() != null && login != null) {
            reach.masking.hidePair(settings.login().user(), login);
        }
        if (settings.proxy() != null && settings.proxy().secret() != null) {
            reach.masking.hidePair(settings.proxy().user(), reach.proxySecret());
        }
        for (String name : settings.sentSecrets()) {
            reach.secret(name);
        }
        return reach;
    }

    /** Returns the host and port of an address in small letters, null when it has none or nothing is called there. */
    public static String destination(String address) {
        try {
            URI at = URI.create(address);
            int port = port(at);
            return at.getHost() == null || port == 0 ? null : at.getHost().toLowerCase(Locale.ROOT) + ":" + port;
        } catch (IllegalArgumentException | NullPointerException e) {
            return null;
        }
    }

    /** Returns the port of an address of HTTP or AMQP, the usual one where it names none; 0 for any other address. */
    public static int port(URI address) {
        int usual =
                switch (String.valueOf(address.getScheme()).toLowerCase(Locale.ROOT)) {
                    case "http" -> 80;
                    case "https" -> 443;
                    case "amqp" -> 5_672;
                    case "amqps" -> 5_671;
                    default -> 0;
                };
        return usual > 0 && address.getPort() > 0 ? address.getPort() : usual;
    }

    /** Tells whether an address is that of a broker: AMQP 1.0, by itself or in TLS. */
    public static boolean broker(String address) {
        return address != null && address.strip().toLowerCase(Locale.ROOT).matches("amqps?:.*");
    }

    /** Returns the secrets that may be sent to the address; what is given is hidden from then on. */
    @Override
    public Secrets secrets() {
        return new Hidden(secrets.sentTo(destination(address)), masking);
    }

    /** Secrets that are hidden as soon as they are given: one that changes meanwhile is hidden in both forms. */
    private record Hidden(Secrets given, Masking masking) implements Secrets {
        @Override
        public String text(String name) {
            String value = given.text(name);
            masking.hide(value);
            return value;
        }

        @Override
        public KeyMaterial key(String name) {
            return given.key(name);
        }

        @Override
        public Secrets ofFills() {
            return new Hidden(given.ofFills(), masking);
        }
    }

    /** Returns a secret for the address. */
    public String secret(String name) {
        return secrets().text(name);
    }

    /** Returns the secret of the HTTP login, for the address or where tokens come from; null when there is none. */
    public String loginSecret() {
        EndpointSettings.Login login = settings.login();
        if (login.secret() == null || login.secret().isBlank()) {
            return null;
        }
        String to = login.kind() == EndpointSettings.Login.Kind.OAUTH2 ? login.tokenAddress() : address;
        return new Hidden(secrets.sentTo(destination(to)), masking).text(login.secret());
    }

    /** Returns the secret of the proxy's login, null when there is none. */
    public String proxySecret() {
        EndpointSettings.Proxy proxy = settings.proxy();
        return proxy == null || proxy.secret() == null || proxy.secret().isBlank()
                ? null
                : new Hidden(secrets.sentTo(destination("http://" + proxy.address())), masking).text(proxy.secret());
    }

    /** Returns the key shown to the server, null for none. */
    public KeyMaterial clientKey() {
        String key = settings.tls().clientKey();
        return key == null ? null : secrets().key(key);
    }

    /** Tells whether it is a place nothing is proved to, as a simulator: messages are not signed for it. */
    boolean provesNothing() {
        return secrets == Secrets.STAND_INS;
    }

    /** Returns the key messages are signed with, null for none. */
    public KeyMaterial signKey() {
        String key = settings.security().signKey();
        return key == null ? null : secrets().key(key);
    }
}
