package wirekettle.connect;

import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.Set;

/**
 * What it takes to reach documents; kept in memory for one import only.
 *
 * @param user the name for HTTP basic, null for none
 * @param password its password
 * @param proxy the proxy as host:port, null for none
 * @param proxyUser the name the proxy wants, null for none
 * @param proxyPassword its password
 * @param trusted SHA-256 fingerprints of certificates trusted beyond those the machine knows, lower-case hexadecimal
 */
public record WebAccess(
        String user, String password, String proxy, String proxyUser, String proxyPassword, Set<String> trusted) {
    /** Nothing special. */
    public static final WebAccess NONE = new WebAccess(null, null, null, null, null, Set.of());

    /**
     * Reads blanks as nothing and checks the proxy's form; throws {@link IllegalArgumentException} when it has none.
     */
    public WebAccess {
        user = user == null || user.isBlank() ? null : user;
        proxyUser = proxyUser == null || proxyUser.isBlank() ? null : proxyUser;
        proxy = proxy == null || proxy.isBlank() ? null : proxy.strip().replaceFirst("^https?://", "");
        trusted = trusted == null ? Set.of() : Set.copyOf(trusted);
        if (proxy != null) {
            HttpConnections.proxy(proxy);
        }
    }

    String basic() {
        String pair = user + ":" + (password == null ? "" : password);
        return "Basic " + Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8));
    }

    @Override
    public String toString() {
        return "WebAccess[user=" + user + ", proxy=" + proxy + "]";
    }
}
