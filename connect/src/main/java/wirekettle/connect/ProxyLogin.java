package wirekettle.connect;

import java.net.Authenticator;
import java.net.InetSocketAddress;
import java.net.PasswordAuthentication;

/** A proxy's address and login as the JDK's client takes them. */
final class ProxyLogin {
    private ProxyLogin() {}

    /** Returns an address of the form host:port; throws {@link IllegalArgumentException} when it has none. */
    static InetSocketAddress address(String proxy) {
        if (!proxy.matches("[^/:\\s]+:\\d{1,5}")) {
            throw new IllegalArgumentException("“" + proxy + "” is no proxy: give host:port");
        }
        int colon = proxy.lastIndexOf(':');
        return new InetSocketAddress(proxy.substring(0, colon), Integer.parseInt(proxy.substring(colon + 1)));
    }

    static Authenticator authenticator(String user, String password) {
        // without this the JDK refuses basic logins to a proxy for addresses over TLS
        System.setProperty("jdk.http.auth.tunneling.disabledSchemes", "");
        char[] secret = password == null ? new char[0] : password.toCharArray();
        return new Authenticator() {
            @Override
            protected PasswordAuthentication getPasswordAuthentication() {
                return getRequestorType() == RequestorType.PROXY ? new PasswordAuthentication(user, secret) : null;
            }
        };
    }
}
