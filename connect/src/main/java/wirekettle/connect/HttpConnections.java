package wirekettle.connect;

import java.io.IOException;
import java.lang.ref.Cleaner;
import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import javax.net.ssl.SSLContext;
import org.apache.hc.client5.http.auth.AuthCache;
import org.apache.hc.client5.http.auth.AuthScheme;
import org.apache.hc.client5.http.auth.AuthScope;
import org.apache.hc.client5.http.auth.StandardAuthScheme;
import org.apache.hc.client5.http.auth.UsernamePasswordCredentials;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.config.ConnectionConfig;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.client5.http.impl.auth.BasicCredentialsProvider;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClientBuilder;
import org.apache.hc.client5.http.impl.io.ManagedHttpClientConnectionFactory;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManager;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.client5.http.protocol.HttpClientContext;
import org.apache.hc.client5.http.ssl.DefaultClientTlsStrategy;
import org.apache.hc.client5.http.ssl.HostnameVerificationPolicy;
import org.apache.hc.client5.http.ssl.NoopHostnameVerifier;
import org.apache.hc.core5.http.ClassicHttpResponse;
import org.apache.hc.core5.http.HttpHost;
import org.apache.hc.core5.http.config.CharCodingConfig;
import org.apache.hc.core5.pool.PoolConcurrencyPolicy;
import org.apache.hc.core5.util.TimeValue;
import org.apache.hc.core5.util.Timeout;
import wirekettle.core.soap.EndpointSettings.Proxy;

/**
 * Pooled HTTP/1.1 connections with one way of trusting, one proxy and one login. Nothing is sent twice and no redirect
 * is followed by itself. What is left open is closed when nobody holds this object any more. Safe for several threads.
 */
final class HttpConnections {
    private static final Cleaner CLEANER = Cleaner.create();
    private static final int MOST = 2_000;
    // a server may have closed a connection that was not used for this long
    private static final TimeValue LOOK_AFTER = TimeValue.of(50, TimeUnit.MILLISECONDS);
    private static final TimeValue CLOSE_AFTER = TimeValue.of(30, TimeUnit.SECONDS);
    private static final String WATCHED = "wirekettle.watched";

    private final CloseableHttpClient client;
    private final PoolingHttpClientConnectionManager pool;
    private final boolean logsIn;
    private final ThreadLocal<Map<HttpHost, AuthScheme>> logins = ThreadLocal.withInitial(HashMap::new);
    private volatile Patience patience;
    private volatile long sweptAt = System.nanoTime();

    /** How long calls wait: nearly all calls of an endpoint wait alike. */
    private record Patience(int connectMillis, int silenceMillis, RequestConfig config) {}

    /** A name and password. */
    record Login(String user, String password) {}

    /**
     * Makes connections.
     *
     * @param proxy the proxy's host and port, null for none
     * @param proxyLogin what the proxy wants, null for nothing
     * @param digest the login for HTTP digest (RFC 7616), null for none
     */
    HttpConnections(SSLContext tls, HttpHost proxy, Login proxyLogin, Login digest) {
        // who is trusted and under which name is decided by the trust manager alone
        var strategy =
                new DefaultClientTlsStrategy(tls, HostnameVerificationPolicy.BUILTIN, NoopHostnameVerifier.INSTANCE);
        pool = PoolingHttpClientConnectionManagerBuilder.create()
                .setTlsSocketStrategy(strategy)
                .setConnectionFactory(ManagedHttpClientConnectionFactory.builder()
                        .charCodingConfig(CharCodingConfig.custom()
                                .setCharset(StandardCharsets.UTF_8)
                                .build())
                        .build())
                .setDefaultConnectionConfig(ConnectionConfig.custom()
                        .setValidateAfterInactivity(LOOK_AFTER)
                        .build())
                .setPoolConcurrencyPolicy(PoolConcurrencyPolicy.LAX)
                .setMaxConnTotal(MOST)
                .setMaxConnPerRoute(MOST)
                .build();
        BasicCredentialsProvider credentials = new BasicCredentialsProvider();
        if (proxyLogin != null) {
            credentials.setCredentials(new AuthScope(proxy), credentials(proxyLogin));
        }
        if (digest != null) {
            credentials.setCredentials(
                    new AuthScope(null, null, -1, null, StandardAuthScheme.DIGEST), credentials(digest));
        }
        logsIn = proxyLogin != null || digest != null;
        client = HttpClientBuilder.create()
                .setConnectionManager(pool)
                .setProxy(proxy)
                .setDefaultCredentialsProvider(credentials)
                .setUserAgent("Wire-Kettle")
                .addRequestInterceptorLast((request, entity, context) -> {
                    if (context.getAttribute(WATCHED) instanceof CallWatch.Watched watched) {
                        watched.send();
                    }
                })
                .disableAutomaticRetries()
                .disableRedirectHandling()
                .disableCookieManagement()
                .disableConnectionState()
                .build();
        CLEANER.register(this, closing(client));
    }

    private static Runnable closing(CloseableHttpClient client) {
        return () -> {
            try {
                client.close();
            } catch (IOException e) {
                // nobody holds it any more
            }
        };
    }

    private static UsernamePasswordCredentials credentials(Login login) {
        String password = login.password() == null ? "" : login.password();
        return new UsernamePasswordCredentials(login.user() == null ? "" : login.user(), password.toCharArray());
    }

    /** Returns a proxy as the client takes it, null for none; throws {@link IllegalArgumentException} for a bad one. */
    static HttpHost proxy(Proxy proxy) {
        return proxy == null || proxy.address() == null || proxy.address().isBlank() ? null : proxy(proxy.address());
    }

    /** Returns a proxy given as host:port; throws {@link IllegalArgumentException} when it has another form. */
    static HttpHost proxy(String address) {
        if (!address.matches("[^/:\\s]+:\\d{1,5}")) {
            throw new IllegalArgumentException("“" + address + "” is no proxy: give host:port");
        }
        int colon = address.lastIndexOf(':');
        return new HttpHost("http", address.substring(0, colon), Integer.parseInt(address.substring(colon + 1)));
    }

    /** Returns the context of one exchange; logins that the server accepted from this thread are used again. */
    HttpClientContext context(CallWatch.Watched watched) {
        HttpClientContext context = HttpClientContext.create();
        context.setAttribute(WATCHED, watched);
        if (logsIn) {
            context.setAuthCache(new Remembered(logins.get()));
        }
        return context;
    }

    /**
     * Sends and returns the answer as soon as it has begun; the caller reads it to its end or closes it.
     *
     * @param connectMillis until connected
     * @param silenceMillis the longest silence of the other side; the watch ends calls before that
     */
    ClassicHttpResponse open(
            HttpUriRequestBase request, HttpClientContext context, int connectMillis, int silenceMillis)
            throws IOException {
        sweep();
        Patience known = patience;
        if (known == null || known.connectMillis() != connectMillis || known.silenceMillis() != silenceMillis) {
            known = new Patience(connectMillis, silenceMillis, config(connectMillis, silenceMillis));
            patience = known;
        }
        request.setConfig(known.config());
        return client.executeOpen(null, request, context);
    }

    @SuppressWarnings("deprecation")
    private static RequestConfig config(int connectMillis, int silenceMillis) {
        return RequestConfig.custom()
                .setConnectTimeout(Timeout.ofMilliseconds(connectMillis))
                .setConnectionRequestTimeout(Timeout.ofMilliseconds(connectMillis))
                .setResponseTimeout(Timeout.ofMilliseconds(silenceMillis))
                .setExpectContinueEnabled(false)
                .setProxyPreferredAuthSchemes(List.of(StandardAuthScheme.BASIC))
                .setTargetPreferredAuthSchemes(List.of(StandardAuthScheme.DIGEST))
                .build();
    }

    private void sweep() {
        long now = System.nanoTime();
        if (now - sweptAt > 5_000_000_000L) {
            sweptAt = now;
            pool.closeIdle(CLOSE_AFTER);
        }
    }

    /** The schemes of one thread as they are, so that a digest's request count goes on. */
    private record Remembered(Map<HttpHost, AuthScheme> schemes) implements AuthCache {
        @Override
        public void put(HttpHost host, AuthScheme scheme) {
            schemes.put(host, scheme);
        }

        @Override
        public AuthScheme get(HttpHost host) {
            return schemes.get(host);
        }

        @Override
        public void remove(HttpHost host) {
            schemes.remove(host);
        }

        @Override
        public void clear() {
            schemes.clear();
        }
    }
}
