package wirekettle.connect;

import java.io.FileNotFoundException;
import java.io.IOException;
import java.net.ConnectException;
import java.net.URI;
import java.net.UnknownHostException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.CancellationException;
import javax.net.ssl.SSLException;
import org.apache.hc.client5.http.ClientProtocolException;
import org.apache.hc.client5.http.ConnectTimeoutException;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.impl.TunnelRefusedException;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpEntity;
import wirekettle.core.contract.DocumentSource;

/** Documents by address, each host checked, redirects checked again; and files beside them for the command line. */
public final class WebDocuments implements DocumentSource {
    private static final int MOST_BYTES = 64 << 20;
    private static final int CONNECT_MILLIS = 10_000;
    private static final int BEGIN_MILLIS = 30_000;
    private static final int WHOLE_MILLIS = 60_000;

    private final HostRule hosts;
    private final boolean files;
    private final WebAccess access;
    private final ServerTrust trust;
    private final HttpConnections connections;
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
        this.connections = new HttpConnections(
                trust.context(null),
                access.proxy() == null ? null : HttpConnections.proxy(access.proxy()),
                access.proxyUser() == null
                        ? null
                        : new HttpConnections.Login(access.proxyUser(), access.proxyPassword()),
                null);
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
            URI next = null;
            HttpUriRequestBase request = new HttpUriRequestBase("GET", at);
            // a login is for the host it was given for, never for one a document merely names
            if (access.user() != null && firstHost.equals(HostRule.entry(at))) {
                request.setHeader("Authorization", access.basic());
            }
            long until = System.nanoTime() + WHOLE_MILLIS * 1_000_000L;
            try (CallWatch.Watched watched = CallWatch.watch(request, BEGIN_MILLIS * 1_000_000L, until);
                    ClassicHttpResponse response = open(request, at, watched)) {
                watched.begin();
                int status = response.getCode();
                Header location = response.getFirstHeader("location");
                if (status >= 300 && status < 400 && location != null) {
                    next = at.resolve(uri(location.getValue()));
                } else if (status == 401 || status == 407) {
                    throw loginWanted(at, response, status == 407);
                } else if (status != 200) {
                    throw new IOException("the server answered HTTP " + status + advice(status));
                } else {
                    return body(response, watched, until);
                }
            }
            at = next;
        }
        throw new IOException("the address redirects more than five times");
    }

    private LoginWanted loginWanted(URI at, ClassicHttpResponse response, boolean proxy) {
        Header challenge = response.getFirstHeader(proxy ? "proxy-authenticate" : "www-authenticate");
        boolean given = proxy ? access.proxyUser() != null : access.user() != null;
        return new LoginWanted(
                proxy ? access.proxy() : HostRule.entry(at),
                challenge == null ? "" : challenge.getValue(),
                proxy,
                given);
    }

    private static byte[] body(ClassicHttpResponse response, CallWatch.Watched watched, long until) throws IOException {
        HttpEntity entity = response.getEntity();
        if (entity == null) {
            return new byte[0];
        }
        try {
            return AnswerBody.read(entity.getContent(), entity.getContentLength(), MOST_BYTES, null, until);
        } catch (AnswerBody.TooLarge e) {
            throw new IOException("the document is larger than " + (MOST_BYTES >> 20) + " MB", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new CancellationException("cancelled");
        } catch (IOException e) {
            throw ended(watched, e);
        }
    }

    /** Returns why a document did not come: it was cancelled, took too long, or what the connection says. */
    private static IOException ended(CallWatch.Watched watched, IOException e) {
        if (watched.ended() == null) {
            return e;
        }
        return switch (watched.ended()) {
            case CANCELLED -> throw new CancellationException("cancelled");
            case NOT_BEGUN -> new IOException("no answer began within " + BEGIN_MILLIS / 1000 + " s", e);
            case NOT_COMPLETE -> new IOException(
                    "the document was not complete after " + WHOLE_MILLIS / 1000 + " s", e);
        };
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

    private ClassicHttpResponse open(HttpUriRequestBase request, URI at, CallWatch.Watched watched) throws IOException {
        try {
            return connections.open(request, connections.context(watched), CONNECT_MILLIS, WHOLE_MILLIS + 1_000);
        } catch (SSLException e) {
            CertificateUnknown unknown = trust.refused(HostRule.entry(at));
            throw unknown != null ? unknown : new IOException("no TLS with " + at.getHost() + ": " + e.getMessage(), e);
        } catch (ConnectTimeoutException e) {
            throw new IOException("no answer from " + at.getHost() + " in time", e);
        } catch (ConnectException e) {
            throw new IOException("no connection to " + at.getHost() + ": nothing answers there", e);
        } catch (UnknownHostException e) {
            throw new IOException("no connection to " + at.getHost() + ": no host has that name", e);
        } catch (ClientProtocolException e) {
            if (e.getCause() instanceof TunnelRefusedException refused
                    && refused.getMessage().contains("407")) {
                throw new LoginWanted(access.proxy(), "", true, access.proxyUser() != null);
            }
            throw new IOException("the answer of " + at.getHost() + " cannot be read: " + e.getMessage(), e);
        } catch (IOException e) {
            throw ended(watched, e);
        }
    }
}
