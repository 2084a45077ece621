package wirekettle.connect;

import java.io.FileNotFoundException;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.ProxySelector;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.concurrent.CancellationException;
import javax.net.ssl.SSLException;
import wirekettle.core.contract.DocumentSource;

/** Documents by address, each host checked, redirects checked again; and files beside them for the command line. */
public final class WebDocuments implements DocumentSource {
    private static final int MOST_BYTES = 64 << 20;
    private static final long WHOLE_MILLIS = 60_000;

    private final HostRule hosts;
    private final boolean files;
    private final WebAccess access;
    private final ServerTrust trust;
    private final HttpClient client;
    private String firstHost;

    /**
     * Makes a source.
     *
     * @param files whether plain paths are read from the file system
     */
    public WebDocuments(HostRule hosts, boolean files) {
        this(hosts, files, WebAccess.NONE);
    }

    /** Makes a source that can get past a login, a proxy or an unknown certificate. */
    public WebDocuments(HostRule hosts, boolean files, WebAccess access) {
        this.hosts = hosts;
        this.files = files;
        this.access = access;
        this.trust = new ServerTrust(access.trusted(), java.util.List.of(), false);
        HttpClient.Builder builder = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .followRedirects(HttpClient.Redirect.NEVER)
                .sslContext(trust.context(null))
                .connectTimeout(Duration.ofSeconds(10));
        if (access.proxy() != null) {
            builder.proxy(ProxySelector.of(ProxyLogin.address(access.proxy())));
            if (access.proxyUser() != null) {
                builder.authenticator(ProxyLogin.authenticator(access.proxyUser(), access.proxyPassword()));
            }
        }
        this.client = builder.build();
    }

    @Override
    public byte[] load(String name) throws IOException {
        if (name.matches("(?i)https?://.*")) {
            return fetch(name);
        }
        if (!files) {
            throw new FileNotFoundException("“" + name + "” is no http or https address");
        }
        Path path = Path.of(name.startsWith("file:") ? URI.create(name).getPath() : name);
        if (!Files.isRegularFile(path)) {
            throw new FileNotFoundException("there is no such file");
        }
        return DocumentFile.read(path);
    }

    private byte[] fetch(String address) throws IOException {
        URI at = uri(address);
        if (firstHost == null) {
            firstHost = HostRule.entry(at);
        }
        if (access.proxy() != null) {
            hosts.check(URI.create("http://" + access.proxy()));
        }
        for (int redirects = 0; redirects < 6; redirects++) {
            hosts.check(at);
            HttpResponse<InputStream> response = get(at);
            int status = response.statusCode();
            if (status >= 300
                    && status < 400
                    && response.headers().firstValue("location").isPresent()) {
                response.body().close();
                at = at.resolve(uri(response.headers().firstValue("location").get()));
                continue;
            }
            try (InputStream body = response.body()) {
                if (status == 401 || status == 407) {
                    throw loginWanted(at, response, status == 407);
                }
                if (status != 200) {
                    throw new IOException("the server answered HTTP " + status + advice(status));
                }
                return limited(body);
            }
        }
        throw new IOException("the address redirects more than five times");
    }

    private LoginWanted loginWanted(URI at, HttpResponse<InputStream> response, boolean proxy) {
        String challenge = response.headers()
                .firstValue(proxy ? "proxy-authenticate" : "www-authenticate")
                .orElse("");
        boolean given = proxy ? access.proxyUser() != null : access.user() != null;
        return new LoginWanted(proxy ? access.proxy() : HostRule.entry(at), challenge, proxy, given);
    }

    private static byte[] limited(InputStream body) throws IOException {
        var out = new java.io.ByteArrayOutputStream();
        long until = System.nanoTime() + WHOLE_MILLIS * 1_000_000;
        byte[] buffer = new byte[1 << 16];
        for (int n = body.read(buffer); n >= 0; n = body.read(buffer)) {
            out.write(buffer, 0, n);
            if (out.size() > MOST_BYTES) {
                throw new IOException("the document is larger than " + (MOST_BYTES >> 20) + " MB");
            }
            if (System.nanoTime() > until) {
                throw new IOException("the document was not complete after " + WHOLE_MILLIS / 1000 + " s");
            }
        }
        return out.toByteArray();
    }

    private static String advice(int status) {
        return switch (status) {
            case 403 -> ": the login may not read it; ask for the right to, or import the document as a file";
            case 404, 410 -> ": there is no document at this address";
            default -> "";
        };
    }

    private static URI uri(String address) throws IOException {
        try {
            return URI.create(address.strip().replace(" ", "%20"));
        } catch (IllegalArgumentException e) {
            throw new IOException("“" + address + "” is no address: " + e.getMessage(), e);
        }
    }

    private HttpResponse<InputStream> get(URI at) throws IOException {
        HttpRequest.Builder request =
                HttpRequest.newBuilder(at).timeout(Duration.ofSeconds(30)).GET();
        // a login is for the host it was given for, never for one a document merely names
        if (access.user() != null && firstHost.equals(HostRule.entry(at))) {
            request.header("Authorization", access.basic());
        }
        try {
            return client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
        } catch (SSLException e) {
            CertificateUnknown unknown = trust.refused(HostRule.entry(at));
            throw unknown != null ? unknown : new IOException("no TLS with " + at.getHost() + ": " + e.getMessage(), e);
        } catch (ConnectException e) {
            throw new IOException("no connection to " + at.getHost() + ": nothing answers there", e);
        } catch (HttpTimeoutException e) {
            throw new IOException("no answer from " + at.getHost() + " in time", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new CancellationException("cancelled");
        }
    }
}
