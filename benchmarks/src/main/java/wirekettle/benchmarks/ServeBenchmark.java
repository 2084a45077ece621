package wirekettle.benchmarks;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/**
 * An operation offered as JSON against calling its service directly: the time of one call, one after the other, and how
 * many a second 16 callers get. Each request is kept before it is worked on, and its end before it is answered.
 */
public final class ServeBenchmark {
    private static final int AT_ONCE = 16;
    private static final int ROUNDS = 5;
    private static final int SERVICE_MILLIS = 5;
    private static final double HOLD = 1.5;
    private static final String BODY =
            "{\"registrationNumber\": \"RG-10400\", \"requestedBy\": \"HC07\", \"insuredValue\": 1500.5}";

    private ServeBenchmark() {}

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        boolean full = args.length > 0;
        int calls = full ? 1_000 : 200;
        int many = full ? 20_000 : 800;
        HttpServer service = RunBenchmark.service(new AtomicInteger(SERVICE_MILLIS));
        String address = "http://127.0.0.1:" + service.getAddress().getPort() + "/register";
        double ratio;
        try (StartedProduct product = new StartedProduct(Path.of(""), List.of("-Xmx256m"), Map.of())) {
            ProductClient client = product.client();
            RunBenchmark.prepare(client, address, 1);
            JsonNode offer = client.post(
                    "/api/offers",
                    Map.of(
                            "contract",
                            "Institution Register",
                            "operation",
                            "LookUpInstitution",
                            "environment",
                            "Test"));
            HttpRequest ours = HttpRequest.newBuilder(
                            URI.create(product.address() + offer.get("path").asText()))
                    .header("Content-Type", "application/json")
                    .header("X-Api-Key", offer.get("key").asText())
                    .POST(HttpRequest.BodyPublishers.ofString(BODY))
                    .build();
            HttpRequest direct = BareLoop.request(address);
            // a day's callers meet code that is compiled
            BareLoop.jdk(ours, many, AT_ONCE);
            BareLoop.jdk(direct, many, AT_ONCE);
            ratio = times(ours, direct, calls);
            throughput(ours, direct, many);
        } finally {
            service.stop(0);
        }
        System.exit(Ratio.atMost(ratio, HOLD));
    }

    private static double times(HttpRequest ours, HttpRequest direct, int calls) throws Exception {
        HttpClient client =
                HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
        double[] its = new double[ROUNDS];
        double[] bare = new double[ROUNDS];
        for (int round = 0; round < ROUNDS; round++) {
            bare[round] = median(client, direct, calls);
            its[round] = median(client, ours, calls);
        }
        double ratio = Ratio.median(its) / Ratio.median(bare);
        System.out.printf(
                Locale.ROOT,
                "service answering in %d ms: a published JSON call %.2f ms, calling it directly %.2f ms (medians of %d):"
                        + " %.2f (hold: at most %.2f)%n",
                SERVICE_MILLIS,
                Ratio.median(its),
                Ratio.median(bare),
                calls,
                ratio,
                HOLD);
        return ratio;
    }

    private static double median(HttpClient client, HttpRequest request, int calls) throws Exception {
        double[] millis = new double[calls];
        for (int i = 0; i < calls; i++) {
            long since = System.nanoTime();
            int status = client.send(request, HttpResponse.BodyHandlers.ofByteArray())
                    .statusCode();
            millis[i] = (System.nanoTime() - since) / 1e6;
            if (status != 200) {
                throw new AssertionError("a call was answered with " + status);
            }
        }
        return Ratio.median(millis);
    }

    private static void throughput(HttpRequest ours, HttpRequest direct, int calls) throws Exception {
        double[] its = new double[ROUNDS];
        double[] bare = new double[ROUNDS];
        for (int round = 0; round < ROUNDS; round++) {
            bare[round] = BareLoop.jdk(direct, calls, AT_ONCE);
            its[round] = BareLoop.jdk(ours, calls, AT_ONCE);
        }
        System.out.printf(
                Locale.ROOT,
                "%d callers at once: %.0f requests a second, bare loop %.0f: %.2f%n",
                AT_ONCE,
                Ratio.median(its),
                Ratio.median(bare),
                Ratio.median(its) / Ratio.median(bare));
    }
}
