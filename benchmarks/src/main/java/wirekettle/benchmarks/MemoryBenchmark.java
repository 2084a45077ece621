package wirekettle.benchmarks;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/**
 * The most memory a run takes: a long run against a short one, through a server with a heap of 512 MB. Memory is the
 * used heap after a collection, looked at again and again while the run goes on.
 */
public final class MemoryBenchmark {
    private static final double HOLD = 1.2;
    private static final int TIMES = 100;
    private static final int SHORT_RUNS = 8;
    private static final Pattern USED = Pattern.compile("total \\d+K, used (\\d+)K");

    private MemoryBenchmark() {}

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        int records = args.length > 0 ? 1_000_000 : 60_000;
        int few = args.length > 0 ? records / TIMES : 6_000;
        HttpServer service = RunBenchmark.service(new AtomicInteger());
        String address = "http://127.0.0.1:" + service.getAddress().getPort() + "/register";
        int exit;
        try (StartedProduct product = new StartedProduct(Path.of(""), List.of("-Xmx512m"), Map.of())) {
            ProductClient client = product.client();
            long flow = RunBenchmark.prepare(client, address, records);
            peak(product, client, flow, few); // everything that is loaded once
            // a short run is looked at a few times only, so that its peak is seen in one of several
            double small = 0;
            for (int i = 0; i < SHORT_RUNS; i++) {
                small = Math.max(small, peak(product, client, flow, few));
            }
            double large = peak(product, client, flow, records);
            System.out.printf(
                    Locale.ROOT,
                    "most memory of a run: %,d records %.1f MB, %,d records %.1f MB; heap 512 MB%n",
                    few,
                    small / 1024,
                    records,
                    large / 1024);
            exit = Ratio.atMost(large / small, HOLD);
        } finally {
            service.stop(0);
        }
        System.exit(args.length > 0 ? exit : 0);
    }

    /** Returns the most kilobytes used while a run goes on. */
    private static double peak(StartedProduct product, ProductClient client, long flow, int records) throws Exception {
        Map<String, Object> wanted = Map.of("environment", "Test", "limit", records);
        long id = client.post("/api/flows/" + flow + "/runs", wanted).get("id").asLong();
        double most = 0;
        JsonNode run;
        do {
            most = Math.max(most, used(product));
            run = client.get("/api/runs/" + id).get("run");
        } while (run.get("state").asText().equals("running"));
        if (run.get("done").asInt() != records) {
            throw new AssertionError("not every record was written: " + run);
        }
        return most;
    }

    private static double used(StartedProduct product) throws Exception {
        jcmd(product, "GC.run");
        Matcher found = USED.matcher(jcmd(product, "GC.heap_info"));
        double kilobytes = 0;
        while (found.find()) {
            kilobytes += Double.parseDouble(found.group(1)); // each generation has a line
        }
        if (kilobytes == 0) {
            throw new IllegalStateException("the heap's use cannot be read");
        }
        return kilobytes;
    }

    private static String jcmd(StartedProduct product, String what) throws Exception {
        Process process = new ProcessBuilder(
                        System.getProperty("java.home") + "/bin/jcmd",
                        Long.toString(product.handle().pid()),
                        what)
                .start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        process.waitFor();
        return said;
    }
}
