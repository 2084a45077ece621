package wirekettle.connect;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.protocol.HttpClientContext;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.Header;
import org.apache.hc.core5.http.HttpEntity;
import org.apache.hc.core5.http.HttpRequest;
import wirekettle.core.soap.CallFailure;
import wirekettle.core.soap.EndpointReach;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.soap.Session;
import wirekettle.core.soap.Transport;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.security.Masking;

/**
 * HTTP/1.1 with limits of our own, reaching an endpoint as its settings say; redirects are never followed blindly, and
 * nothing is sent a second time by itself.
 */
public final class HttpTransport implements Transport {
    private final HostRule hosts;
    private final EndpointReach reach;
    private final ServerTrust trust;
    private final HttpConnections connections;
    private final HttpLogin login;
    private volatile Parsed last;

    private record Parsed(String text, URI address) {}

    /** Makes a transport that reaches only allowed hosts, with nothing special. */
    public HttpTransport(HostRule hosts) {
        this(hosts, EndpointReach.plain(""));
    }

    /**
     * Makes a transport for one endpoint.
     *
     * @throws IllegalArgumentException when a certificate or the proxy of its settings cannot be used
     * @throws wirekettle.core.soap.security.Secrets.SecretMissing when a secret it uses does not exist
     */
    public HttpTransport(HostRule hosts, EndpointReach reach) {
        this.hosts = hosts;
        this.reach = reach;
        this.trust = ServerTrust.of(reach);
        EndpointSettings settings = reach.settings();
        EndpointSettings.Proxy proxy = settings.proxy();
        boolean proxyLogin =
                proxy != null && proxy.user() != null && !proxy.user().isBlank();
        this.connections = new HttpConnections(
                trust.context(reach.clientKey()),
                HttpConnections.proxy(proxy),
                proxyLogin ? new HttpConnections.Login(proxy.user(), reach.proxySecret()) : null,
                settings.login().kind() == EndpointSettings.Login.Kind.DIGEST
                        ? new HttpConnections.Login(settings.login().user(), reach.loginSecret())
                        : null);
        this.login = HttpLogin.of(reach, this::plainly);
    }

    @Override
    public Answer send(Request request) throws CallFailure {
        URI address = address(request);
        Map<String, String> headers = new LinkedHashMap<>(request.headers());
        for (EndpointSettings.Header fixed : reach.settings().headers()) {
            headers.keySet().removeIf(name -> name.equalsIgnoreCase(fixed.name()));
            String value = fixed.secret() == null ? fixed.value() : reach.secret(fixed.secret());
            if (value != null && value.contains(Session.MARK)) {
                value = reach.inSession(value);
                if (value.contains(Session.MARK)) {
                    continue; // outside a session, as when one is signed on for
                }
            }
            headers.put(fixed.name(), value);
        }
        Answer answer = once(request, address, with(headers, login.header()));
        return answer.status() == 401 && login.refused()
                ? once(request, address, with(headers, login.header()))
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

    private Answer once(Request request, URI address, Map<String, String> headers) throws CallFailure {
        HttpUriRequestBase http = http(request, address, headers);
        long start = System.nanoTime();
        long deadline = start + request.limits().wholeMillis() * 1_000_000L;
        boolean begun = false;
        try (CallWatch.Watched watched =
                CallWatch.watch(http, request.limits().firstByteMillis() * 1_000_000L, deadline)) {
            HttpClientContext context = connections.context(watched);
            try (ClassicHttpResponse response = connections.open(
                    http,
                    context,
                    request.limits().connectMillis(),
                    request.limits().wholeMillis() + 1_000)) {
                long began = System.nanoTime();
                begun = true;
                watched.begin();
                return answer(request, response, context, start, began, deadline);
            } catch (Multipart.Broken e) {
                throw new CallFailure(FailureClass.REPLY, "broken multipart", e.getMessage(), true, true, null);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw cancelled(true);
            } catch (IOException e) {
                throw new HttpFailures(request, address, reach, trust)
                        .of(e, http, watched.sending(), begun, watched.ended());
            }
        }
    }

    private Answer answer(
            Request request,
            ClassicHttpResponse response,
            HttpClientContext context,
            long start,
            long began,
            long until)
            throws IOException, InterruptedException, Multipart.Broken {
        Map<String, String> headers = new TreeMap<>();
        for (Header header : response.getHeaders()) {
            headers.merge(
                    header.getName().toLowerCase(Locale.ROOT),
                    String.valueOf(header.getValue()),
                    (a, b) -> a + ", " + b);
        }
        int status = response.getCode();
        String type = headers.get("content-type");
        HttpEntity entity = response.getEntity();
        InputStream stream = entity == null ? InputStream.nullInputStream() : entity.getContent();
        List<Part> parts = null;
        byte[] body;
        if (request.room().attachments() != null && status / 100 == 2 && Multipart.is(type)) {
            parts = StreamedParts.read(stream, type, request);
            body = parts.get(0).bytes();
        } else {
            long said = entity == null ? 0 : entity.getContentLength();
            body = AnswerBody.read(
                    stream, said, request.limits().maxBytes(), request.room().memory(), until);
        }
        long end = System.nanoTime();
        return new Answer(
                status,
                headers,
                body,
                parts,
                (began - start) / 1_000_000,
                (end - start) / 1_000_000,
                masked(context.getRequest()));
    }

    static CallFailure cancelled(boolean sent) {
        return new CallFailure(FailureClass.TIMEOUT, "cancelled", "the call was cancelled", sent, false, null);
    }

    /** Shows what was set on the request, a login by its scheme only. */
    private Map<String, String> masked(HttpRequest sent) {
        Map<String, String> shown = new LinkedHashMap<>();
        for (Header header : sent.getHeaders()) {
            boolean secret = header.getName().equalsIgnoreCase("Authorization")
                    || header.getName().equalsIgnoreCase("Proxy-Authorization");
            shown.put(
                    header.getName(),
                    secret
                            ? header.getValue().replaceFirst("\\s.*", " " + Masking.MASK)
                            : reach.masking().mask(header.getValue()));
        }
        return shown;
    }

    private URI address(Request request) throws CallFailure {
        try {
            URI address = parsed(request.address());
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

    /** Nearly all requests of an endpoint go to one address. */
    private URI parsed(String address) {
        Parsed known = last;
        if (known == null || !known.text().equals(address)) {
            known = new Parsed(address, URI.create(address));
            last = known;
        }
        return known.address();
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

    private static HttpUriRequestBase http(Request request, URI address, Map<String, String> headers)
            throws CallFailure {
        try {
            HttpUriRequestBase http = new HttpUriRequestBase(request.method(), address);
            headers.forEach(http::setHeader);
            boolean empty = request.content().length() == 0;
            if (!empty || request.method().equals("POST") || request.method().equals("PUT")) {
                http.setEntity(SentContent.of(request.content()));
            }
            return http;
        } catch (IllegalArgumentException e) {
            throw badAddress(request, e);
        }
    }
}
