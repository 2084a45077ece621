package wirekettle.connect;

import java.io.IOException;

/** A document behind a login: of its own server, or of the proxy on the way. */
public final class LoginWanted extends IOException {
    private final String host;
    private final boolean proxy;

    LoginWanted(String host, String challenge, boolean proxy, boolean given) {
        super(message(host, challenge, proxy, given));
        this.host = host;
        this.proxy = proxy;
    }

    private static String message(String host, String challenge, boolean proxy, boolean given) {
        String who = (proxy ? "the proxy " : "") + host;
        if (!challenge.isEmpty()
                && !challenge.toLowerCase(java.util.Locale.ROOT).contains("basic")) {
            return who + " wants a login of the kind " + challenge.split("[ ,]")[0]
                    + ", which an import cannot give; save the document and import it as a file";
        }
        return given ? who + " does not accept this name and password" : who + " wants a name and password";
    }

    /** Returns who wants it, as host:port. */
    public String host() {
        return host;
    }

    /** Tells whether the proxy wants it. */
    public boolean proxy() {
        return proxy;
    }
}
