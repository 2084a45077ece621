package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static wirekettle.e2e.Until.until;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.AfterClass;
import org.testng.annotations.Test;

/**
 * A server whose clock jumps, by a library that stands before the system's clock in its process: what is due runs once,
 * whichever way it jumps, and what holds for an endpoint's hours goes on when they begin.
 */
public class ClockJumpsTest extends DutyRuns {
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("HH:mm");

    private Path ahead;
    private Path library;

    @Override
    Map<String, String> settings() {
        Map<String, String> all = new HashMap<>(super.settings());
        all.put("LD_PRELOAD", library().toString());
        all.put("CLOCK_AHEAD", jump(Duration.ZERO).toString());
        return all;
    }

    /** Builds what stands before the system's clock. */
    private Path library() {
        try {
            library = Files.createTempFile("ahead", ".so");
            Process built = new ProcessBuilder(
                            "gcc", "-shared", "-fPIC", "-O1", "-o", library.toString(), "src/test/c/ahead.c")
                    .inheritIO()
                    .start();
            assertEquals(built.waitFor(), 0, "./test installs gcc");
            return library;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new AssertionError(e);
        }
    }

    /** Sets how far the server's clock is ahead of the real one. */
    private Path jump(Duration by) {
        try {
            if (ahead == null) {
                ahead = Files.createTempFile("clock", ".ahead");
            }
            ByteBuffer seconds = ByteBuffer.allocate(Long.BYTES).order(ByteOrder.nativeOrder());
            try (FileChannel file = FileChannel.open(ahead, StandardOpenOption.WRITE)) {
                file.write(seconds.putLong(by.toSeconds()).flip(), 0);
            }
            return ahead;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @AfterClass(alwaysRun = true)
    public void removeClock() throws IOException {
        Files.deleteIfExists(ahead);
        Files.deleteIfExists(library);
    }

    private List<String> whatHappened(JsonNode trigger) {
        return get("/api/triggers/" + trigger.get("id").asLong() + "/events")
                .get("items")
                .findValuesAsText("what");
    }

    @Test
    public void whatIsDueRunsOnceWhicheverWayTheClockJumps() throws Exception {
        jump(Duration.ZERO);
        JsonNode flow = small("By the clock", "clock in", loans(loan("J-1", "RG-10696")), file -> {});
        publish(flow, "Test");
        ZonedDateTime due = Instant.now().plus(3, ChronoUnit.HOURS).atZone(ZoneOffset.UTC);
        due = due.truncatedTo(ChronoUnit.MINUTES);
        String cron = due.getMinute() + " " + due.getHour() + " * * *";
        JsonNode trigger = trigger(flow, "clock", Map.of("cron", cron, "zone", "UTC"));
        assertTrue(whatHappened(trigger).isEmpty(), "it is not due for hours");

        // to half a minute behind its time
        jump(Duration.between(Instant.now(), due.toInstant().plusSeconds(30)));
        event(trigger, "started");

        // back to before it: another trigger shows that time goes on there, and this one is not due again
        jump(Duration.between(Instant.now(), due.toInstant().minusSeconds(50)));
        JsonNode minutes = trigger(flow, "clock", Map.of("everyMinutes", 1, "overlap", "beside"));
        jump(Duration.between(Instant.now(), due.toInstant().plusSeconds(25)));
        event(minutes, "started");
        assertEquals(whatHappened(trigger), List.of("started"));

        // over its time of tomorrow by hours: it was missed, which is said
        jump(Duration.between(Instant.now(), due.plusDays(1).plusHours(2).toInstant()));
        event(trigger, "missed");
        assertEquals(whatHappened(trigger).size(), 2);
    }

    @Test
    public void aRunHoldsUntilTheHoursOfItsEndpointAndLeavesRoomForOthers() throws Exception {
        jump(Duration.ZERO);
        AtomicInteger open = new AtomicInteger();
        AtomicInteger most = new AtomicInteger();
        AtomicInteger calls = new AtomicInteger();
        CountDownLatch three = new CountDownLatch(3);
        HttpServer desk = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        desk.setExecutor(Executors.newCachedThreadPool());
        desk.createContext("/", exchange -> {
            most.accumulateAndGet(open.incrementAndGet(), Math::max);
            calls.incrementAndGet();
            exchange.getRequestBody().readAllBytes();
            three.countDown();
            try {
                // the first are answered once three are there; others would come beside them
                three.await(20, TimeUnit.SECONDS);
                Thread.sleep(20);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
            open.decrementAndGet();
            exchange.sendResponseHeaders(404, -1);
            exchange.close();
        });
        desk.start();
        try {
            ZonedDateTime opens = Instant.now().plus(2, ChronoUnit.HOURS).atZone(ZoneOffset.UTC);
            opens = opens.truncatedTo(ChronoUnit.MINUTES);
            String place = "127.0.0.1:" + desk.getAddress().getPort();
            client.post("/api/allowed-hosts", Map.of("host", place));
            long id = client.put("/api/endpoints", Map.of("name", "Keeps hours", "addresses", Map.of()))
                    .get("id")
                    .asLong();
            Map<String, Object> hours = Map.of(
                    "zone",
                    "UTC",
                    "open",
                    List.of(Map.of("from", TIME.format(opens), "to", TIME.format(opens.plusHours(1)))));
            client.put(
                    "/api/endpoints/" + id + "/environments/Test",
                    Map.of(
                            "address",
                            "http://" + place,
                            "settings",
                            Map.of("limits", Map.of("atOnce", 6, "runsPercent", 50, "hours", hours))));
            JsonNode flow = flow("In hours", file -> {
                ((com.fasterxml.jackson.databind.node.ObjectNode)
                                file.get("stages").get(1))
                        .put("endpoint", "Keeps hours");
                delivery(file).put("atOnce", 8);
            });
            long run = run(flow, 60).get("id").asLong();
            String path = "/api/runs/" + run;
            until("it holds, and says until when", () -> get(path).toString().contains("is closed until"));
            assertEquals(calls.get(), 0, "nothing is sent outside the hours");
            jump(Duration.between(Instant.now(), opens.toInstant().plusSeconds(5)));
            until(
                    "it goes on by itself",
                    () -> !get(path).get("run").get("state").asText().equals("running"));
            assertEquals(get(path).get("run").get("ended").asInt(), 60);
            assertTrue(calls.get() > 50, calls + " calls");
            assertEquals(most.get(), 3, "runs have half of six at a time");
        } finally {
            desk.stop(0);
        }
    }
}
