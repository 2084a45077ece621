package wirekettle.e2e;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.Base64;

/** A document behind an HTTP basic login on loopback. */
final class LoginServer implements AutoCloseable {
    private final HttpServer server;

    LoginServer(String user, String password, byte[] document) throws IOException {
        String pair = user + ":" + password;
        String expected = "Basic " + Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8));
        server = HttpServer.create(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), 0), 10);
        server.createContext("/", exchange -> {
            try (exchange) {
                boolean in = expected.equals(exchange.getRequestHeaders().getFirst("Authorization"));
                exchange.getResponseHeaders().set("WWW-Authenticate", "Basic realm=\"desk\"");
                exchange.sendResponseHeaders(in ? 200 : 401, in ? document.length : -1);
                if (in) {
                    exchange.getResponseBody().write(document);
                }
            }
        });
        server.start();
    }

    /** Returns where it listens, as host:port. */
    String host() {
        return "127.0.0.1:" + server.getAddress().getPort();
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
