package wirekettle.benchmarks;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.ProductClient;
import wirekettle.demo.StartedProduct;

/** A run through the server, 16 at once, ledger in PostgreSQL, against bare loops on the wire. */
public final class RunBenchmark {
    private static final int AT_ONCE = 16;
    private static final int ROUNDS = 5;
    private static final int WARM = 150_000;
    private static final double QUICK_HOLD = 0.6;
    private static final double SLOW_HOLD = 0.85;
    private static final double SPLIT_HOLD = 0.9;
    private static final byte[] REPLY = ("<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                    + "<LookUpInstitutionResponse xmlns='urn:halewick:register:1'><registrationNumber>RG-10400</registrationNumber>"
                    + "<name>Fenmoor Textile Rooms</name><status>active</status><address><street>3 Quay Lane</street>"
                    + "<city>Aldersund</city><country>NV</country></address><insuredLimit>50000</insuredLimit>"
                    + "</LookUpInstitutionResponse></s:Body></s:Envelope>")
            .getBytes(StandardCharsets.UTF_8);

    private RunBenchmark() {}

    /** Runs the benchmark. */
    public static void main(String[] args) throws Exception {
        int records = args.length > 0 ? 50_000 : 10_000;
        AtomicInteger delay = new AtomicInteger();
        HttpServer service = service(delay);
        String address = "http://127.0.0.1:" + service.getAddress().getPort() + "/register";
        double[] held = new double[3];
        try (StartedProduct product = new StartedProduct(Path.of(""), List.of("-Xmx512m"), Map.of())) {
            ProductClient client = product.client();
            long flow = prepare(client, address, records);
            long changing = changing(client);
            // a night's run is long: all sides are measured once their code is compiled
            for (int done = 0; done < WARM; done += records) {
                run(client, flow, records);
                BareLoop.jdk(address, records, AT_ONCE);
                BareLoop.pooled(address, records, AT_ONCE);
            }
            int[] delays = {0, 5};
            for (int i = 0; i < 2; i++) {
                delay.set(delays[i]);
                held[i] = measured(client, flow, address, records, delays[i], i == 0 ? QUICK_HOLD : SLOW_HOLD);
                System.out.printf(
                        Locale.ROOT,
                        "the same, calls that change data and are claimed first: run %.0f a second%n",
                        run(client, changing, records));
            }
            held[2] = split(client, address, records / SplitFlow.CALLS);
        } finally {
            service.stop(0);
        }
        int exit = held[0] >= QUICK_HOLD ? 0 : 1;
        exit |= Ratio.atLeast(held[1], SLOW_HOLD);
        exit |= Ratio.atLeast(held[2], SPLIT_HOLD);
        System.exit(exit);
    }

    /** Starts a service that answers everything the same, after a delay. */
    static HttpServer service(AtomicInteger delay) throws IOException {
        // while one side runs, the others' connections wait: the service must not close them
        System.setProperty("sun.net.httpserver.maxIdleConnections", "10000");
        System.setProperty("sun.net.httpserver.idleInterval", "3600");
        HttpServer service = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 200);
        service.setExecutor(Executors.newCachedThreadPool(task -> {
            Thread thread = new Thread(task);
            thread.setDaemon(true);
            return thread;
        }));
        service.createContext("/", exchange -> {
            exchange.getRequestBody().readAllBytes();
            try {
                if (delay.get() > 0) {
                    Thread.sleep(delay.get());
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
            exchange.getResponseHeaders().set("Content-Type", "text/xml");
            exchange.sendResponseHeaders(200, REPLY.length);
            exchange.getResponseBody().write(REPLY);
            exchange.close();
        });
        service.start();
        return service;
    }

    /** Measures the sides in turns and compares their medians. */
    private static double measured(ProductClient client, long flow, String address, int records, int delay, double hold)
            throws Exception {
        double[] ours = new double[ROUNDS];
        double[] jdk = new double[ROUNDS];
        double[] pooled = new double[ROUNDS];
        for (int round = 0; round < ROUNDS; round++) {
            jdk[round] = BareLoop.jdk(address, records, AT_ONCE);
            ours[round] = run(client, flow, records);
            pooled[round] = BareLoop.pooled(address, records, AT_ONCE);
        }
        double ratio = Ratio.median(ours) / Ratio.median(jdk);
        System.out.printf(
                Locale.ROOT,
                "service answering in %d ms, %d records, %d at once: run %.0f a second, bare loop of the JDK's client %.0f:"
                        + " %.2f (hold: at least %.2f); bare loop of our own client %.0f: %.2f%n",
                delay,
                records,
                AT_ONCE,
                Ratio.median(ours),
                Ratio.median(jdk),
                ratio,
                hold,
                Ratio.median(pooled),
                Ratio.median(ours) / Ratio.median(pooled));
        return ratio;
    }

    /** Measures the flow with items against a loop with as many calls. */
    private static double split(ProductClient client, String address, int records) throws Exception {
        long flow = SplitFlow.prepare(client, records, "reads");
        long changing = SplitFlow.prepare(client, records, "changes");
        run(client, flow, records);
        double[] ours = new double[ROUNDS];
        double[] jdk = new double[ROUNDS];
        for (int round = 0; round < ROUNDS; round++) {
            jdk[round] = BareLoop.jdk(address, records * SplitFlow.CALLS, AT_ONCE);
            ours[round] = run(client, flow, records) * SplitFlow.CALLS;
        }
        double ratio = Ratio.median(ours) / Ratio.median(jdk);
        System.out.printf(
                Locale.ROOT,
                "service answering in 5 ms, %d records split into %d items with a call each, gathered, two rows written: run"
                        + " %.0f calls a second, bare loop %.0f: %.2f (hold: at least %.2f)%n"
                        + "the same, calls that change data and are claimed first: run %.0f calls a second%n",
                records,
                SplitFlow.CALLS,
                Ratio.median(ours),
                Ratio.median(jdk),
                ratio,
                SPLIT_HOLD,
                run(client, changing, records) * SplitFlow.CALLS);
        return ratio;
    }

    static long prepare(ProductClient client, String address, int records) throws Exception {
        URI at = URI.create(address);
        client.post("/api/allowed-hosts", Map.of("host", at.getHost() + ":" + at.getPort()));
        JsonNode job = client.upload(
                "/api/imports/files",
                "files",
                new LinkedHashMap<>(DemoWorld.registerDocuments().files()));
        while (client.get("/api/imports/" + job.get("id")).get("state").asText().equals("reading")) {
            Thread.sleep(50);
        }
        client.put("/api/endpoints", Map.of("name", "Institution Register", "addresses", Map.of("Test", address)));
        StringBuilder csv = new StringBuilder("loan_no;crate_no;institution_no;insured_value;collect_on\r\n");
        for (int i = 0; i < records; i++) {
            csv.append("HC-")
                    .append(i)
                    .append(";HC-")
                    .append(i)
                    .append("-1;RG-10400;")
                    .append(i)
                    .append(",5;04.12.2026\r\n");
        }
        client.upload(
                "/api/datasets/files",
                "file",
                Map.of("loans.csv", csv.toString().getBytes(StandardCharsets.UTF_8)));
        client.post("/api/datasets", Map.of("name", "borrowers", "kind", "csv"));
        ObjectNode file = (ObjectNode) new ObjectMapper().readTree(DemoWorld.resource("flows/check-borrowers.json"));
        ((ObjectNode) file.get("stages").get(1).get("delivery")).put("atOnce", AT_ONCE);
        return client.post("/api/flows", Map.of("name", "bench", "file", file))
                .get("id")
                .asLong();
    }

    /** The same flow with an operation that changes data: each call is durable in the ledger before it leaves. */
    private static long changing(ProductClient client) throws Exception {
        ObjectNode file = (ObjectNode) client.get("/api/flows/1").get("file").deepCopy();
        file.put("name", "bench of changes");
        ((ObjectNode) file.get("stages").get(1).get("delivery")).put("effect", "changes");
        return client.post("/api/flows", Map.of("name", "bench of changes", "file", file))
                .get("id")
                .asLong();
    }

    private static double run(ProductClient client, long flow, int records) throws Exception {
        long id = client.post(
                        "/api/flows/" + flow + "/runs",
                        Map.of("environment", "Test", "limit", records, "confirmed", true))
                .get("id")
                .asLong();
        JsonNode run;
        do {
            Thread.sleep(100);
            run = client.get("/api/runs/" + id).get("run");
        } while (run.get("state").asText().equals("running"));
        if (run.get("done").asInt() != records) {
            throw new AssertionError("not every record was written: " + run);
        }
        Duration took = Duration.between(
                Instant.parse(run.get("startedAt").asText()),
                Instant.parse(run.get("endedAt").asText()));
        return records / (took.toMillis() / 1000.0);
    }
}
