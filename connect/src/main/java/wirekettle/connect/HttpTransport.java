package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.ProxySelector;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpResponse.BodySubscribers;
import java.net.http.HttpTimeoutException;
import java.time.Duration;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLException;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Reach;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.security.Masking;

/**
 * HTTP/1.1 over the JDK's client with limits of our own, reaching an endpoint as its settings say; redirects are never
 * followed blindly.
 */
public final class HttpTransport implements Transport {
    private final HostRule hosts;
    private final Reach reach;
    private final ServerTrust trust;
    private final SSLContext tls;
    private final HttpLogin login;
    private final Map<Integer, HttpClient> clients = new ConcurrentHashMap<>();

    /** Makes a transport that reaches only allowed hosts, with nothing special. */
    public HttpTransport(HostRule hosts) {
        this(hosts, Reach.plain(""));
    }

    /**
     * Makes a transport for one endpoint.
     *
     * @throws IllegalArgumentException when a certificate or the proxy of its settings cannot be used
     * @throws wirekettle.core.soap.security.Secrets.SecretMissing when a secret it uses does not exist
     */
    public HttpTransport(HostRule hosts, Reach reach) {
        this.hosts = hosts;
        this.reach = reach;
        this.trust = ServerTrust.of(reach);
        String key = reach.settings().tls().clientKey();
        this.tls = trust.context(key == null ? null : reach.secrets().key(key));
        this.login = HttpLogin.of(reach, this::plainly);
    }

    private HttpClient client(int connectMillis) {
        return clients.computeIfAbsent(connectMillis, millis -> {
            HttpClient.Builder builder = HttpClient.newBuilder()
                    .version(HttpClient.Version.HTTP_1_1)
                    .followRedirects(HttpClient.Redirect.NEVER)
                    .sslContext(tls)
                    .connectTimeout(Duration.ofMillis(millis));
            EndpointSettings.Proxy proxy = reach.settings().proxy();
            if (proxy != null && proxy.address() != null && !proxy.address().isBlank()) {
                builder.proxy(ProxySelector.of(ProxyLogin.address(proxy.address())));
                if (proxy.user() != null && !proxy.user().isBlank()) {
                    String password =
                            proxy.secret() == null ? "" : reach.secrets().text(proxy.secret());
                    builder.authenticator(ProxyLogin.authenticator(proxy.user(), password));
                }
            }
            return builder.build();
        });
    }

    @Override
    public Answer send(Request request) throws CallFailure {
        URI address = address(request);
        Map<String, String> headers = new LinkedHashMap<>(request.headers());
        for (EndpointSettings.Header fixed : reach.settings().headers()) {
            headers.keySet().removeIf(name -> name.equalsIgnoreCase(fixed.name()));
            headers.put(
                    fixed.name(),
                    fixed.secret() == null ? fixed.value() : reach.secrets().text(fixed.secret()));
        }
        Answer answer = once(request, address, with(headers, login.header(request.method(), address)));
        return answer.status() == 401 && login.refused(answer.headers())
                ? once(request, address, with(headers, login.header(request.method(), address)))
                : answer;
    }

    /** Sends without the endpoint's own headers and login, as for fetching a token. */
    private Answer plainly(Request request) throws CallFailure {
        return once(request, address(request), request.headers());
    }

    private static Map<String, String> with(Map<String, String> headers, String authorization) {
        if (authorization == null) {
            return headers;
        }
        Map<String, String> all = new LinkedHashMap<>(headers);
        all.put("Authorization", authorization);
        return all;
    }

    private Answer once(Request request, URI address, Map<String, String> sent) throws CallFailure {
        IOException[] unreadable = {null};
        HttpRequest http = http(request, address, sent, unreadable);
        long start = System.nanoTime();
        long deadline = start + request.limits().wholeMillis() * 1_000_000L;
        long[] began = {start};
        try {
            // not sendAsync: on few cores that starts a thread for every call
            HttpResponse<Body> response = client(request.limits().connectMillis())
                    .send(http, info -> {
                        began[0] = System.nanoTime();
                        return request.attachments() != null && StreamedParts.are(info)
                                ? BodySubscribers.mapping(
                                        BodySubscribers.ofInputStream(), stream -> new Body(null, stream))
                                : BodySubscribers.mapping(
                                        new LimitedBody(request.limits().maxBytes(), deadline),
                                        bytes -> new Body(bytes, null));
                    });
            Map<String, String> headers = new HashMap<>();
            response.headers().map().forEach((k, v) -> headers.put(k.toLowerCase(Locale.ROOT), String.join(", ", v)));
            InputStream stream = response.body().stream();
            List<Part> parts = stream == null ? null : StreamedParts.read(stream, headers, request, deadline);
            byte[] body = parts != null
                    ? parts.get(0).bytes()
                    : LimitedBody.unpacked(
                            response.body().bytes(), headers, request.limits().maxBytes());
            long end = System.nanoTime();
            return new Answer(
                    response.statusCode(),
                    headers,
                    body,
                    parts,
                    (began[0] - start) / 1_000_000,
                    (end - start) / 1_000_000,
                    masked(sent));
        } catch (Multipart.Broken e) {
            throw new CallFailure(FailureClass.REPLY, "broken multipart", e.getMessage(), true, true, null);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new CallFailure(FailureClass.TIMEOUT, "cancelled", "the call was cancelled", true, false, null);
        } catch (LimitedBody.BrokenGzip e) {
            throw new CallFailure(FailureClass.REPLY, "broken gzip", e.getMessage(), true, true, null);
        } catch (SSLException e) {
            throw refusedTls(e, address);
        } catch (IOException e) {
            if (unreadable[0] != null) {
                throw new CallFailure(
                        FailureClass.MAPPING,
                        "file not readable",
                        "a file of the message could not be read while it was sent: " + unreadable[0].getMessage(),
                        true,
                        false,
                        null);
            }
            CallFailure failure = classified(e, request);
            // some servers hang up on a caller whose certificate they miss, without a word
            throw failure.causeLabel().equals("connection lost") && trust.askedForClient() && began[0] == start
                    ? clientRefused(address)
                    : failure;
        }
    }

    private CallFailure clientRefused(URI address) {
        String why = reach.settings().tls().clientKey() != null
                ? address.getHost() + " does not accept this endpoint's client certificate"
                : address.getHost() + " wants a client certificate: add a key in Settings, Secrets, and name it in the"
                        + " endpoint's TLS settings";
        return new CallFailure(FailureClass.CONNECTION, "client certificate refused", why, false, false, null);
    }

    /** Shows a login by its scheme only. */
    private Map<String, String> masked(Map<String, String> sent) {
        Map<String, String> shown = new LinkedHashMap<>();
        sent.forEach((name, value) -> shown.put(
                name,
                name.equalsIgnoreCase("Authorization")
                        ? value.replaceFirst("\\s.*", " " + Masking.MASK)
                        : reach.masking().mask(value)));
        return shown;
    }

    private CallFailure refusedTls(SSLException e, URI address) {
        CertificateUnknown unknown = trust.refused(HostRule.entry(address));
        String message = String.valueOf(e.getMessage());
        if (unknown != null) {
            return new CallFailure(
                    FailureClass.CONNECTION, "certificate refused", unknown.getMessage(), false, false, null);
        }
        if (message.contains("certificate_required") || message.contains("bad_certificate")) {
            return clientRefused(address);
        }
        return new CallFailure(
                FailureClass.CONNECTION,
                "no TLS",
                "no TLS with " + address.getHost() + ": " + message,
                false,
                false,
                null);
    }

    private URI address(Request request) throws CallFailure {
        try {
            URI address = URI.create(request.address());
            hosts.check(address);
            EndpointSettings.Proxy proxy = reach.settings().proxy();
            if (proxy != null && proxy.address() != null && !proxy.address().isBlank()) {
                hosts.check(URI.create("http://" + proxy.address()));
            }
            return address;
        } catch (HostRefused e) {
            throw new CallFailure(FailureClass.CONNECTION, "host not allowed", e.getMessage(), false, false, null);
        } catch (IllegalArgumentException e) {
            throw badAddress(request, e);
        }
    }

    private static CallFailure badAddress(Request request, IllegalArgumentException e) {
        return new CallFailure(
                FailureClass.CONNECTION,
                "bad address",
                "“" + request.address() + "” is no address that can be called: " + e.getMessage(),
                false,
                false,
                null);
    }

    /** What comes: bytes in memory, or a stream of parts. */
    private record Body(byte[] bytes, InputStream stream) {}

    private static HttpRequest http(Request request, URI address, Map<String, String> headers, IOException[] unreadable)
            throws CallFailure {
        try {
            HttpRequest.Builder builder = HttpRequest.newBuilder(address)
                    .timeout(Duration.ofMillis(Math.min(
                            request.limits().firstByteMillis(), request.limits().wholeMillis())))
                    .method(request.method(), SentContent.of(request.content(), unreadable));
            headers.forEach(builder::header);
            return builder.build();
        } catch (IllegalArgumentException e) {
            throw badAddress(request, e);
        }
    }

    private static CallFailure classified(IOException thrown, Request request) {
        // the client wraps what happened; the subscriber's own reasons stand behind it
        Throwable cause =
                thrown.getCause() instanceof LimitedBody.TooLarge || thrown.getCause() instanceof LimitedBody.TooLate
                        ? thrown.getCause()
                        : thrown;
        if (cause instanceof LimitedBody.TooLate) {
            return new CallFailure(
                    FailureClass.TIMEOUT,
                    "no whole answer in time",
                    "the answer was not complete after " + request.limits().wholeMillis() + " ms",
                    true,
                    false,
                    null);
        }
        if (cause instanceof HttpConnectTimeoutException) {
            return new CallFailure(
                    FailureClass.CONNECTION,
                    "no connection in time",
                    "no connection to " + request.address() + " within "
                            + request.limits().connectMillis() + " ms",
                    false,
                    false,
                    null);
        }
        if (cause instanceof ConnectException) {
            return new CallFailure(
                    FailureClass.CONNECTION,
                    "no connection",
                    "no connection to " + request.address() + ": nothing answers there",
                    false,
                    false,
                    null);
        }
        if (cause instanceof HttpTimeoutException) {
            return new CallFailure(
                    FailureClass.TIMEOUT,
                    "no answer in time",
                    "no answer began within " + request.limits().firstByteMillis() + " ms",
                    true,
                    false,
                    null);
        }
        if (cause instanceof LimitedBody.TooLarge || cause instanceof Multipart.RootTooLarge) {
            boolean parts = cause instanceof LimitedBody.TooLarge && request.attachments() != null;
            long most = parts
                    ? request.limits().maxAttachmentBytes()
                    : request.limits().maxBytes();
            return new CallFailure(
                    FailureClass.REPLY,
                    "answer too large",
                    "the answer is larger than " + (most >> 20) + " MB",
                    true,
                    true,
                    null);
        }
        return new CallFailure(
                FailureClass.CONNECTION,
                "connection lost",
                "the connection was lost before the answer was complete: " + cause.getMessage(),
                true,
                false,
                null);
    }
}
