package wirekettle.connect;

import java.net.URI;
import java.util.List;
import java.util.Locale;
import wirekettle.core.soap.EndpointReach;

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

    /** Returns the host and port of an address of HTTP or AMQP as an entry, or null when it is none. */
    static String entry(URI address) {
        int port = EndpointReach.port(address);
        return address.getHost() == null || port == 0 ? null : address.getHost() + ":" + port;
    }

    /** Throws {@link HostRefused} when an address may not be reached. */
    default void check(URI address) throws HostRefused {
        if (entry(address) == null) {
            throw new HostRefused(address.toString(), address + " is no address of http, https, amqp or amqps");
        }
        if (!allows(address.getHost(), EndpointReach.port(address))) {
            throw new HostRefused(entry(address), entry(address) + " is not among the allowed hosts");
        }
    }
}
