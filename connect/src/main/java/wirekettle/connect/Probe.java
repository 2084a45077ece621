package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.URI;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.security.cert.X509Certificate;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import javax.net.ssl.SNIHostName;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLParameters;
import javax.net.ssl.SSLSocket;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;

/**
 * A connection made only to see how far one gets: name, connection, TLS, each with its time.
 *
 * @param steps what was tried, in order; it ends with the first that failed
 * @param shown the certificate the server showed, trusted or not, null when it showed none
 */
public record Probe(List<Step> steps, X509Certificate shown) {
    /**
     * One step.
     *
     * @param name name, connect, tls, http, soap or amqp
     * @param works whether it went well
     * @param detail what was found, or why it failed and what to do
     * @param millis how long it took
     */
    public record Step(String name, boolean works, String detail, long millis) {}

    /** Returns the time of a step in milliseconds, null when it was not reached or failed. */
    public Long millis(String step) {
        return steps.stream()
                .filter(s -> s.name().equals(step) && s.works())
                .map(Step::millis)
                .findFirst()
                .orElse(null);
    }

    /** Tells whether every step went well. */
    public boolean works() {
        return steps.stream().allMatch(Step::works);
    }

    private static final class Going {
        private final java.util.ArrayList<Step> steps = new java.util.ArrayList<>();
        private long from = System.nanoTime();
        private X509Certificate shown;

        void done(String name, boolean works, String detail) {
            steps.add(new Step(name, works, detail, (System.nanoTime() - from) / 1_000_000));
            from = System.nanoTime();
        }

        Probe probe() {
            return new Probe(List.copyOf(steps), shown);
        }
    }

    /** Tries to reach an endpoint, through its proxy where it has one; never throws for what it finds. */
    public static Probe of(HostRule hosts, EndpointReach reach, int connectMillis) {
        Going going = new Going();
        URI address;
        try {
            address = URI.create(reach.address());
            hosts.check(address);
            if (HttpConnections.proxy(reach.settings().proxy()) != null) {
                hosts.check(URI.create("http://" + reach.settings().proxy().address()));
            }
        } catch (IllegalArgumentException e) {
            going.done("name", false, "“" + reach.address() + "” is no address: " + e.getMessage());
            return going.probe();
        } catch (HostRefused e) {
            going.done("name", false, e.getMessage() + ": allow it in Settings, Allowed hosts");
            return going.probe();
        }
        boolean secure = address.getScheme().toLowerCase(Locale.ROOT).endsWith("s");
        int port = EndpointReach.port(address);
        EndpointSettings.Proxy proxy = reach.settings().proxy();
        boolean through =
                proxy != null && proxy.address() != null && !proxy.address().isBlank();
        InetSocketAddress target;
        try {
            target = through
                    ? new InetSocketAddress(
                            proxyHost(proxy), HttpConnections.proxy(proxy).getPort())
                    : new InetSocketAddress(address.getHost(), port);
            String found = Arrays.stream(InetAddress.getAllByName(target.getHostString()))
                    .map(InetAddress::getHostAddress)
                    .collect(Collectors.joining(", "));
            String who = (through ? "the proxy " : "") + target.getHostString();
            going.done("name", true, found.equals(target.getHostString()) ? who : who + " is " + found);
        } catch (UnknownHostException e) {
            going.done(
                    "name",
                    false,
                    "no host has the name " + e.getMessage() + ": correct the address, or wait until"
                            + " the name is known here");
            return going.probe();
        } catch (IllegalArgumentException e) {
            going.done("name", false, e.getMessage());
            return going.probe();
        }
        try (Socket socket = new Socket()) {
            socket.connect(target, connectMillis);
            socket.setSoTimeout(connectMillis);
            if (through && secure) {
                tunnel(socket, address.getHost() + ":" + port, proxy, reach);
            }
            going.done("connect", true, "connected to " + target.getHostString() + ":" + target.getPort());
            if (secure) {
                tls(going, reach, socket, address.getHost(), port);
            }
        } catch (IOException e) {
            going.done(
                    "connect",
                    false,
                    "no connection to " + target.getHostString() + ":" + target.getPort() + ": "
                            + reach.masking().mask(String.valueOf(e.getMessage())));
        }
        return going.probe();
    }

    private static String proxyHost(EndpointSettings.Proxy proxy) {
        return HttpConnections.proxy(proxy).getHostName();
    }

    /** Asks a proxy for a tunnel (RFC 9110, 9.3.6). */
    private static void tunnel(Socket socket, String target, EndpointSettings.Proxy proxy, EndpointReach reach)
            throws IOException {
        StringBuilder head = new StringBuilder("CONNECT " + target + " HTTP/1.1\r\nHost: " + target + "\r\n");
        if (proxy.user() != null && !proxy.user().isBlank()) {
            String password = reach.proxySecret();
            byte[] pair = (proxy.user() + ":" + (password == null ? "" : password)).getBytes(StandardCharsets.UTF_8);
            head.append("Proxy-Authorization: Basic ")
                    .append(Base64.getEncoder().encodeToString(pair))
                    .append("\r\n");
        }
        socket.getOutputStream().write(head.append("\r\n").toString().getBytes(StandardCharsets.ISO_8859_1));
        InputStream in = socket.getInputStream();
        StringBuilder answer = new StringBuilder();
        while (answer.indexOf("\r\n\r\n") < 0 && answer.length() < 16_000) {
            int c = in.read();
            if (c < 0) {
                throw new IOException("the proxy hung up");
            }
            answer.append((char) c);
        }
        String line = answer.substring(0, answer.indexOf("\r\n"));
        if (!line.matches("HTTP/1\\.[01] 2\\d\\d.*")) {
            throw new IOException("the proxy answered “" + line + "”"
                    + (line.contains(" 407") ? ": it wants a login, or does not accept this one" : ""));
        }
    }

    private static void tls(Going going, EndpointReach reach, Socket socket, String host, int port) throws IOException {
        ServerTrust trust = ServerTrust.of(reach);
        try (SSLSocket tls = (SSLSocket)
                trust.context(reach.clientKey()).getSocketFactory().createSocket(socket, host, port, true)) {
            SSLParameters parameters = tls.getSSLParameters();
            parameters.setEndpointIdentificationAlgorithm("HTTPS");
            if (!host.matches("[0-9.]+|\\[.*]")) {
                parameters.setServerNames(List.of(new SNIHostName(host)));
            }
            tls.setSSLParameters(parameters);
            tls.startHandshake();
            going.shown = (X509Certificate) tls.getSession().getPeerCertificates()[0];
            going.done(
                    "tls",
                    true,
                    tls.getSession().getProtocol() + ", " + tls.getSession().getCipherSuite()
                            + ", certificate valid until "
                            + going.shown.getNotAfter().toInstant().toString().substring(0, 10));
        } catch (SSLException e) {
            CertificateUnknown unknown = trust.refused(host + ":" + port);
            going.shown = unknown == null ? null : unknown.certificate();
            going.done(
                    "tls",
                    false,
                    unknown != null ? unknown.getMessage() : "no TLS with " + host + ": " + e.getMessage());
        }
    }
}
