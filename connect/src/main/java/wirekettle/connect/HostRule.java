package wirekettle.connect;

import java.net.URI;
import java.util.List;
import java.util.Locale;

/** Which hosts may be reached. */
@FunctionalInterface
public interface HostRule {
    /** Everything is allowed: for tools where the user names every address. */
    HostRule ANY = (host, port) -> true;

    /** Tells whether a host and port may be reached. */
    boolean allows(String host, int port);

    /** Returns a rule from entries {@code host}, {@code host:port} and {@code *.domain}. */
    static HostRule of(List<String> entries) {
        List<HostEntry> read =
                entries.stream().map(entry -> HostEntry.of(entry.strip())).toList();
        return (host, port) -> {
            String wanted = host.toLowerCase(Locale.ROOT);
            for (HostEntry entry : read) {
                if (entry.matches(wanted, port)) {
                    return true;
                }
            }
            return false;
        };
    }

    /** Returns the host and port of an address as an entry, or null when it is no http address. */
    static String entry(URI address) {
        if (address.getHost() == null
                || !("http".equalsIgnoreCase(address.getScheme()) || "https".equalsIgnoreCase(address.getScheme()))) {
            return null;
        }
        return address.getHost() + ":" + port(address);
    }

    private static int port(URI address) {
        return address.getPort() > 0 ? address.getPort() : "https".equalsIgnoreCase(address.getScheme()) ? 443 : 80;
    }

    /** Throws {@link HostRefused} when an address may not be reached. */
    default void check(URI address) throws HostRefused {
        if (entry(address) == null) {
            throw new HostRefused(address.toString(), address + " is no http or https address");
        }
        if (!allows(address.getHost(), port(address))) {
            throw new HostRefused(entry(address), entry(address) + " is not among the allowed hosts");
        }
    }
}
