package wirekettle.connect;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsParameters;
import com.sun.net.httpserver.HttpsServer;
import java.io.IOException;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Supplier;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLParameters;
import wirekettle.core.simulate.ServedDocuments;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.soap.HttpText;

/** Serves simulators over HTTP on loopback, each under its own path, with its documents and knobs. */
public final class SimulatorHost implements AutoCloseable {
    /** How a simulated service misbehaves on demand. */
    public static final class Knobs {
        /** Milliseconds added to every answer. */
        public volatile int latencyMillis;
        /** Every n-th request answers with a server fault; 0 for none. */
        public volatile int faultEvery;
        /** none, page (an HTML 502 page), close (no answer at all), drip (a byte at a time), hang. */
        public volatile String outage = "none";
    }

    /** Looks at requests before they are answered, and at answers before they are sent. */
    public interface Gate {
        /** Lets everything pass. */
        Gate OPEN = new Gate() {};

        /**
         * Returns the answer a request is refused with, null to let it pass.
         *
         * @param method the HTTP method
         * @param uri path and query as asked for
         * @param headers the HTTP headers, names in lower case
         */
        default Refusal refuse(String method, String uri, Map<String, String> headers, byte[] body) {
            return null;
        }

        /** Returns an answer as it is to be sent. */
        default Simulator.Answer dressed(Simulator.Answer answer) {
            return answer;
        }
    }

    /** An answer that refuses a request, with HTTP headers of its own. */
    public record Refusal(int status, String contentType, String body, Map<String, String> headers) {}

    /** Receives every request with its answer. */
    public interface Recorder {
        /** Keeps nothing. */
        Recorder NONE = (request, answer) -> {};

        /** Takes in a request as it came and what was answered. */
        void record(byte[] request, Simulator.Answer answer);
    }

    private record Hosted(Supplier<Simulator> source, Gate gate, Recorder recorder, Knobs knobs, AtomicLong count) {
        Simulator simulator() {
            return source.get();
        }
    }

    private final HttpServer server;
    private final boolean secure;
    private final ExecutorService threads = Executors.newCachedThreadPool(task -> {
        Thread thread = new Thread(task, "simulator");
        thread.setDaemon(true);
        return thread;
    });
    private static final int MOST_BYTES = 64 << 20;

    private final Map<String, Hosted> hosted = new ConcurrentHashMap<>();

    /** Starts listening on loopback; port 0 takes a free one. */
    public SimulatorHost(int port) throws IOException {
        this(port, null, false);
    }

    /**
     * Starts listening on loopback.
     *
     * @param port the port, 0 for a free one
     * @param tls with which key, null for plain HTTP
     * @param wantsClient whether only callers with a certificate the key's trust vouches for are let in
     */
    public SimulatorHost(int port, SSLContext tls, boolean wantsClient) throws IOException {
        // without this the JDK's server holds every small reply back for about 40 ms
        System.setProperty("sun.net.httpserver.nodelay", "true");
        InetSocketAddress at = new InetSocketAddress(InetAddress.getByName("127.0.0.1"), port);
        secure = tls != null;
        if (secure) {
            HttpsServer https = HttpsServer.create(at, 200);
            https.setHttpsConfigurator(new HttpsConfigurator(tls) {
                @Override
                public void configure(HttpsParameters parameters) {
                    SSLParameters wanted = tls.getDefaultSSLParameters();
                    wanted.setNeedClientAuth(wantsClient);
                    parameters.setSSLParameters(wanted);
                }
            });
            server = https;
        } else {
            server = HttpServer.create(at, 200);
        }
        server.setExecutor(threads);
        server.createContext("/", this::handle);
        server.start();
    }

    /** Returns the port listened on. */
    public int port() {
        return server.getAddress().getPort();
    }

    /** Serves a simulator under {@code /name} and returns its knobs. */
    public Knobs add(String name, Simulator simulator) {
        return add(name, () -> simulator, Gate.OPEN, Recorder.NONE);
    }

    /** Serves a simulator, made when it is first asked, behind a gate, passing every request to a recorder. */
    public Knobs add(String name, Supplier<Simulator> source, Gate gate, Recorder recorder) {
        Knobs knobs = new Knobs();
        hosted.put(name, new Hosted(source, gate, recorder, knobs, new AtomicLong()));
        return knobs;
    }

    /** Serves nothing under {@code /name} any longer. */
    public void remove(String name) {
        hosted.remove(name);
    }

    /** Replaces the simulator under {@code /name}, as when a service has a new version. */
    public void replace(String name, Simulator simulator) {
        hosted.computeIfPresent(
                name,
                (k, before) ->
                        new Hosted(() -> simulator, before.gate(), before.recorder(), before.knobs(), before.count()));
    }

    /** Returns the address of a simulator. */
    public String address(String name) {
        return (secure ? "https" : "http") + "://127.0.0.1:" + port() + "/" + name;
    }

    private void handle(HttpExchange exchange) throws IOException {
        try (exchange) {
            answer(exchange);
        } catch (RuntimeException e) {
            // a caller must see that the simulator itself failed, not a connection that ends
            String why = "the simulator failed: " + e.getMessage();
            send(exchange, 500, "text/plain; charset=utf-8", why.getBytes(StandardCharsets.UTF_8));
        }
    }

    private void answer(HttpExchange exchange) throws IOException {
        String[] path = exchange.getRequestURI().getPath().substring(1).split("/", 2);
        Hosted found = hosted.get(path[0]);
        if (found == null) {
            send(exchange, 404, "text/plain", "no service is simulated here".getBytes(StandardCharsets.UTF_8));
        } else if (path.length > 1 && path[1].equals("knobs")) {
            turn(exchange, found.knobs());
        } else if (called(exchange, found, path)) {
            return;
        } else if (exchange.getRequestMethod().equals("GET")) {
            document(exchange, path[0], found.simulator(), path.length > 1 ? path[1] : null);
        } else {
            call(exchange, found);
        }
    }

    /** Answers a request of plain HTTP; false when no operation is called this way. */
    private static boolean called(HttpExchange exchange, Hosted found, String[] path) throws IOException {
        boolean described = found.simulator().contract().operations().stream()
                .map(offered -> offered.operation().http())
                .anyMatch(http -> http != null && http.described() != null);
        if (path.length < 2) {
            return false;
        }
        return described ? calledAsDescribed(exchange, found, path[1]) : calledByBinding(exchange, found, path[1]);
    }

    private static boolean calledAsDescribed(HttpExchange exchange, Hosted found, String path) throws IOException {
        byte[] body = exchange.getRequestBody().readNBytes(MOST_BYTES);
        String query = exchange.getRequestURI().getRawQuery();
        String raw = exchange.getRequestURI().getRawPath().substring(1).replaceFirst("^[^/]*", "");
        String target = query == null ? raw : raw + "?" + query;
        Map<String, String> headers = headers(exchange);
        if (refused(exchange, found, headers, body) || outOfOrder(exchange, found.knobs())) {
            return true;
        }
        HttpText request =
                new HttpText(exchange.getRequestMethod(), target, headers, new String(body, StandardCharsets.UTF_8));
        Simulator.Answer answer = found.simulator().answer(request);
        if (answer == null) {
            String none = "no operation is " + exchange.getRequestMethod() + " /" + path;
            answer = new Simulator.Answer(404, "text/plain", none.getBytes(StandardCharsets.UTF_8), 0);
        }
        Map<String, String> shown = new TreeMap<>(headers);
        shown.keySet().retainAll(List.of("content-type", "accept"));
        found.recorder()
                .record(
                        new HttpText(request.method(), target, shown, request.body())
                                .text()
                                .getBytes(StandardCharsets.UTF_8),
                        answer);
        pause(found.knobs().latencyMillis + answer.delayMillis());
        send(exchange, answer.status(), answer.contentType(), answer.body());
        return true;
    }

    private static boolean calledByBinding(HttpExchange exchange, Hosted found, String path) throws IOException {
        String type = String.valueOf(exchange.getRequestHeaders().getFirst("Content-Type"));
        boolean form = type.contains("form-urlencoded");
        String verb = exchange.getRequestMethod();
        if (verb.equals("POST") && !form) {
            return false;
        }
        String text = form
                ? new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8)
                : exchange.getRequestURI().getRawQuery();
        List<Map.Entry<String, String>> pairs = new ArrayList<>();
        for (String pair : text == null || text.isEmpty() ? new String[0] : text.split("&")) {
            int equals = pair.indexOf('=');
            pairs.add(Map.entry(
                    URLDecoder.decode(pair.substring(0, Math.max(0, equals)), StandardCharsets.UTF_8),
                    URLDecoder.decode(pair.substring(equals + 1), StandardCharsets.UTF_8)));
        }
        Simulator.Answer answer = found.simulator().answer(verb, "/" + path, pairs);
        if (answer == null) {
            return false;
        }
        String asked = verb + " " + exchange.getRequestURI() + (form ? "\n\n" + text : "");
        found.recorder().record(asked.getBytes(StandardCharsets.UTF_8), answer);
        pause(found.knobs().latencyMillis + answer.delayMillis());
        send(exchange, answer.status(), answer.contentType(), answer.body());
        return true;
    }

    private static Map<String, String> headers(HttpExchange exchange) {
        Map<String, String> headers = new HashMap<>();
        exchange.getRequestHeaders()
                .forEach((name, values) -> headers.put(name.toLowerCase(Locale.ROOT), String.join(", ", values)));
        return headers;
    }

    /** Lets the gate look at a request; true when it refused it. */
    private static boolean refused(HttpExchange exchange, Hosted found, Map<String, String> headers, byte[] body)
            throws IOException {
        Refusal refusal = found.gate()
                .refuse(exchange.getRequestMethod(), exchange.getRequestURI().toString(), headers, body);
        if (refusal != null) {
            // as services do that let nobody in; this server now and then loses a connection after so quick an answer
            exchange.getResponseHeaders().set("Connection", "close");
            refusal.headers()
                    .forEach((name, value) -> exchange.getResponseHeaders().set(name, value));
            send(
                    exchange,
                    refusal.status(),
                    refusal.contentType(),
                    refusal.body().getBytes(StandardCharsets.UTF_8));
        }
        return refusal != null;
    }

    /** Misbehaves as the knobs say instead of answering; true when it did. */
    private static boolean outOfOrder(HttpExchange exchange, Knobs knobs) throws IOException {
        switch (knobs.outage) {
            case "page" -> {
                String page = "<html><body><h1>502 Bad Gateway</h1><p>the service is down</p></body></html>";
                send(exchange, 502, "text/html", page.getBytes(StandardCharsets.UTF_8));
            }
            case "close" -> {
                // the exchange is closed without an answer
            }
            case "hang" -> pause(120_000);
            default -> {
                return false;
            }
        }
        return true;
    }

    private void turn(HttpExchange exchange, Knobs knobs) throws IOException {
        String query = exchange.getRequestURI().getQuery();
        for (String pair : query == null ? new String[0] : query.split("&")) {
            String value = pair.substring(pair.indexOf('=') + 1);
            switch (pair.split("=")[0]) {
                case "latency" -> knobs.latencyMillis = Integer.parseInt(value);
                case "faultEvery" -> knobs.faultEvery = Integer.parseInt(value);
                case "outage" -> knobs.outage = value;
                default -> {}
            }
        }
        String state = "latency=" + knobs.latencyMillis + " faultEvery=" + knobs.faultEvery + " outage=" + knobs.outage;
        send(exchange, 200, "text/plain", state.getBytes(StandardCharsets.UTF_8));
    }

    private void document(HttpExchange exchange, String name, Simulator simulator, String file) throws IOException {
        byte[] text = new ServedDocuments(simulator.contract(), address(name)).text(file);
        if (text != null) {
            send(exchange, 200, ServedDocuments.type(text), text);
            return;
        }
        send(exchange, 404, "text/plain", "no such document".getBytes(StandardCharsets.UTF_8));
    }

    private void call(HttpExchange exchange, Hosted found) throws IOException {
        byte[] request = exchange.getRequestBody().readNBytes(MOST_BYTES);
        Knobs knobs = found.knobs();
        pause(knobs.latencyMillis);
        Map<String, String> headers = headers(exchange);
        if (refused(exchange, found, headers, request) || outOfOrder(exchange, knobs)) {
            return;
        }
        long number = found.count().incrementAndGet();
        Simulator.Answer answer = found.gate().dressed(found.simulator().answer(headers.get("content-type"), request));
        found.recorder().record(request, answer);
        if (knobs.faultEvery > 0 && number % knobs.faultEvery == 0) {
            send(exchange, 503, "text/plain", "busy, come again".getBytes(StandardCharsets.UTF_8));
            return;
        }
        pause(answer.delayMillis());
        if (knobs.outage.equals("drip")) {
            drip(exchange, answer);
        } else {
            send(exchange, answer.status(), answer.contentType(), answer.body());
        }
    }

    private static void drip(HttpExchange exchange, Simulator.Answer answer) throws IOException {
        exchange.getResponseHeaders().set("Content-Type", answer.contentType());
        exchange.sendResponseHeaders(answer.status(), 0);
        try (OutputStream out = exchange.getResponseBody()) {
            for (byte b : answer.body()) {
                out.write(b);
                out.flush();
                pause(1_000);
            }
        }
    }

    private static void pause(int millis) {
        if (millis > 0) {
            try {
                Thread.sleep(millis);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    private static void send(HttpExchange exchange, int status, String type, byte[] body) throws IOException {
        exchange.getResponseHeaders().set("Content-Type", type);
        exchange.sendResponseHeaders(status, body.length == 0 ? -1 : body.length);
        if (body.length > 0) {
            try (OutputStream out = exchange.getResponseBody()) {
                out.write(body);
            }
        }
    }

    @Override
    public void close() {
        server.stop(0);
        threads.shutdownNow();
    }
}
