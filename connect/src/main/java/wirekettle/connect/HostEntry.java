package wirekettle.connect;

import java.util.Locale;

/**
 * One entry of the allowed hosts.
 *
 * @param name the host in small letters, or what follows the star of {@code *.domain}
 * @param any whether every host below it is meant
 * @param port the port, 0 for every one
 */
record HostEntry(String name, boolean any, int port) {
    /** Reads {@code host}, {@code host:port} or {@code *.domain}. */
    static HostEntry of(String entry) {
        int colon = entry.lastIndexOf(':');
        boolean hasPort = colon > 0
                && entry.indexOf(']') < colon
                && entry.substring(colon + 1).matches("\\d{1,5}");
        String name = (hasPort ? entry.substring(0, colon) : entry).toLowerCase(Locale.ROOT);
        boolean any = name.startsWith("*.");
        return new HostEntry(
                any ? name.substring(1) : name, any, hasPort ? Integer.parseInt(entry.substring(colon + 1)) : 0);
    }

    boolean matches(String host, int at) {
        return (any ? host.endsWith(name) : host.equals(name)) && (port == 0 || port == at);
    }
}
