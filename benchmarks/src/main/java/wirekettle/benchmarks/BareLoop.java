package wirekettle.benchmarks;

import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.impl.classic.CloseableHttpClient;
import org.apache.hc.client5.http.impl.classic.HttpClients;
import org.apache.hc.client5.http.impl.io.PoolingHttpClientConnectionManagerBuilder;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.EntityUtils;
import org.apache.hc.core5.http.io.entity.HttpEntities;

/** The yardsticks of a run: nothing but ready-made bytes sent and answers read, as many at once as the run. */
final class BareLoop {
    private static final byte[] REQUEST = new byte[700];

    private BareLoop() {}

    private interface OneCall {
        void send() throws Exception;
    }

    /**
     * Returns how many calls a second the JDK's client makes. Now and then it closes a connection itself just as it
     * takes it from its pool; {@code ./benchmark} has it mend that itself, by its own setting for it.
     */
    static double jdk(String address, int calls, int atOnce) throws Exception {
        return jdk(request(address), calls, atOnce);
    }

    /** Returns how many calls of a request a second the JDK's client makes. */
    static double jdk(HttpRequest request, int calls, int atOnce) throws Exception {
        HttpClient client =
                HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
        return perSecond(
                calls,
                atOnce,
                () -> mustBeFine(client.send(request, HttpResponse.BodyHandlers.ofByteArray())
                        .statusCode()));
    }

    /** Returns a request of ready-made bytes. */
    static HttpRequest request(String address) {
        return HttpRequest.newBuilder(URI.create(address))
                .header("Content-Type", "text/xml; charset=utf-8")
                .header("SOAPAction", "\"\"")
                .POST(HttpRequest.BodyPublishers.ofByteArray(REQUEST))
                .build();
    }

    /** Returns how many calls a second the library makes that the product calls with. */
    static double pooled(String address, int calls, int atOnce) throws Exception {
        var pool = PoolingHttpClientConnectionManagerBuilder.create()
                .setMaxConnTotal(atOnce)
                .setMaxConnPerRoute(atOnce)
                .build();
        try (CloseableHttpClient client =
                HttpClients.custom().setConnectionManager(pool).build()) {
            return perSecond(calls, atOnce, () -> {
                HttpPost post = new HttpPost(address);
                post.setHeader("SOAPAction", "\"\"");
                post.setEntity(HttpEntities.create(REQUEST, ContentType.TEXT_XML));
                mustBeFine(client.execute(post, response -> {
                    EntityUtils.toByteArray(response.getEntity());
                    return response.getCode();
                }));
            });
        }
    }

    private static void mustBeFine(int status) {
        if (status != 200) {
            throw new AssertionError("the service answered the yardstick with HTTP " + status);
        }
    }

    /** A call that fails ends the measurement with its reason: half a loop is no yardstick. */
    private static double perSecond(int calls, int atOnce, OneCall call) throws Exception {
        AtomicInteger next = new AtomicInteger();
        AtomicReference<Throwable> failed = new AtomicReference<>();
        CountDownLatch done = new CountDownLatch(atOnce);
        long start = System.nanoTime();
        for (int t = 0; t < atOnce; t++) {
            Thread thread = new Thread(() -> {
                try {
                    while (failed.get() == null && next.getAndIncrement() < calls) {
                        call.send();
                    }
                } catch (Throwable e) {
                    failed.compareAndSet(null, e);
                } finally {
                    done.countDown();
                }
            });
            thread.setDaemon(true);
            thread.start();
        }
        done.await();
        if (failed.get() != null) {
            throw new IllegalStateException("a call of the yardstick failed: " + failed.get(), failed.get());
        }
        return calls / ((System.nanoTime() - start) / 1e9);
    }
}
