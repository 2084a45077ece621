package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.contract.Contract;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;

/** One session for all who call an endpoint. */
public class SessionTest {
    private final Contract vanline = World.vanline();
    private final List<String> sent = Collections.synchronizedList(new ArrayList<>());
    private final AtomicInteger given = new AtomicInteger();
    private final Set<String> good = ConcurrentHashMap.newKeySet();
    private volatile boolean refusing;
    private volatile boolean closed;
    private volatile Instant now;

    private final Clock clock = new Clock() {
        @Override
        public Instant instant() {
            return now;
        }

        @Override
        public ZoneOffset getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(java.time.ZoneId zone) {
            return this;
        }
    };

    private static final Secrets SECRETS = new Secrets() {
        @Override
        public String text(String name) {
            return "pass<word-of-" + name;
        }

        @Override
        public KeyMaterial key(String name) {
            throw new SecretMissing(name);
        }
    };

    @BeforeMethod
    public void afresh() {
        sent.clear();
        given.set(0);
        good.clear();
        refusing = false;
        closed = false;
        now = Instant.parse("2026-11-23T09:14:02Z");
    }

    private Transport.Answer desk(Transport.Request request) {
        String text = new String(request.body(), StandardCharsets.UTF_8);
        sent.add(text);
        if (text.contains("<SignOn>")) {
            if (closed) {
                return answer(
                        500, "<s:Fault><faultcode>s:Client</faultcode><faultstring>closed</faultstring></s:Fault>");
            }
            String token = "tok<en-" + given.incrementAndGet();
            good.add(token);
            return answer(
                    200,
                    "<SignOnResponse><session><token>" + token.replace("<", "&lt;")
                            + "</token><seconds>100</seconds></session></SignOnResponse>");
        }
        boolean known = !refusing && good.stream().anyMatch(token -> text.contains(token.replace("<", "&lt;")));
        return known
                ? answer(200, "<Answer><status>fine</status></Answer>")
                : answer(
                        500,
                        "<s:Fault><faultcode>s:Client</faultcode><faultstring>SessionEnded</faultstring></s:Fault>");
    }

    private static Transport.Answer answer(int status, String body) {
        String text = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>" + body
                + "</s:Body></s:Envelope>";
        return new Transport.Answer(status, Map.of(), text.getBytes(StandardCharsets.UTF_8), 1);
    }

    private EndpointReach reach(Integer seconds, String secondsAt, boolean inHeader) {
        EndpointSettings.Session session = new EndpointSettings.Session(
                "SignOn",
                false,
                "sign-on",
                "<SignOn><password>{secret:desk}</password></SignOn>",
                "SignOnResponse/session/token",
                seconds,
                secondsAt,
                new EndpointSettings.Down(null, null, "SessionEnded"),
                "sign-off",
                "<SignOff>{session}</SignOff>");
        List<String> blocks =
                inHeader ? List.of("<v:Session xmlns:v='urn:x'>{session}</v:Session>") : List.<String>of();
        EndpointSettings settings =
                new EndpointSettings(null, null, null, null, blocks, null, null, null, false, false, null, session);
        return EndpointReach.of("http://vanline.invalid", settings, SECRETS, clock);
    }

    private Caller caller(EndpointReach reach) {
        return Caller.of(
                this::desk,
                reach,
                vanline,
                vanline.operation("VanlineDesk", "VanlinePort", "TrackTransport")
                        .orElseThrow(),
                Transport.Limits.DEFAULT);
    }

    private static byte[] message(String body) {
        String text = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body><Ask>" + body
                + "</Ask></s:Body></s:Envelope>";
        return text.getBytes(StandardCharsets.UTF_8);
    }

    @Test
    public void oneSessionServesAllCallersAndIsNeverShown() throws Exception {
        EndpointReach reach = reach(null, null, true);
        Caller caller = caller(reach);
        List<Thread> threads = new ArrayList<>();
        CountDownLatch start = new CountDownLatch(1);
        List<Caller.Result> results = Collections.synchronizedList(new ArrayList<>());
        for (int i = 0; i < 8; i++) {
            Thread thread = new Thread(() -> {
                try {
                    start.await();
                    results.add(caller.call(message("hello")));
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                }
            });
            thread.start();
            threads.add(thread);
        }
        start.countDown();
        for (Thread thread : threads) {
            thread.join();
        }
        assertEquals(given.get(), 1, "signed on once for all");
        assertTrue(sent.get(0).contains("pass&lt;word-of-desk"), sent.get(0));
        for (Caller.Result result : results) {
            assertNull(result.failure());
            String shown = new String(result.sent(), StandardCharsets.UTF_8);
            assertFalse(shown.contains("en-1"), shown);
            assertTrue(shown.contains("Session"), shown);
        }
    }

    @Test
    public void aFieldMayCarryTheToken() {
        assertNull(caller(reach(null, null, false)).call(message("{session}")).failure());
        assertTrue(sent.get(1).contains("<Ask>tok&lt;en-1</Ask>"), sent.get(1));
    }

    @Test
    public void aSessionThatIsRefusedIsBegunAnewAndTheCallIsMadeOnceMore() {
        Caller caller = caller(reach(null, null, true));
        caller.call(message("a"));
        good.clear();
        assertNull(caller.call(message("b")).failure());
        assertEquals(given.get(), 2);
        assertEquals(sent.stream().filter(each -> each.contains("<Ask>b")).count(), 2);
    }

    @Test
    public void aSessionIsRenewedBeforeItEnds() {
        for (boolean told : new boolean[] {true, false}) {
            afresh();
            Caller caller = caller(reach(told ? null : 100, told ? "SignOnResponse/session/seconds" : null, true));
            caller.call(message("a"));
            now = now.plusSeconds(89);
            caller.call(message("b"));
            assertEquals(given.get(), 1);
            now = now.plusSeconds(2);
            caller.call(message("c"));
            assertEquals(given.get(), 2);
        }
    }

    @Test
    public void aSessionRefusedInEveryCallCountsAsDownAndNothingAsDone() {
        refusing = true;
        Caller.Result result = caller(reach(null, null, true)).call(message("a"));
        assertEquals(result.failure().causeLabel(), "session refused");
        assertFalse(result.failure().sent());
        assertEquals(result.failure().failureClass(), FailureClass.CONNECTION);
        assertEquals(given.get(), 2, "once more, and no further");
        assertTrue(EndpointSettings.Down.UNREACHED.holds(result.failure(), 0));
    }

    @Test
    public void withoutASessionNothingIsSent() {
        closed = true;
        Caller.Result result = caller(reach(null, null, true)).call(message("a"));
        assertEquals(result.failure().causeLabel(), "no session");
        assertTrue(
                result.failure().getMessage().contains("closed"),
                result.failure().getMessage());
        assertEquals(sent.size(), 1);
        closed = false;
        EndpointReach wrong = reach(null, "SignOnResponse/nothing/here", true);
        assertNull(caller(wrong).call(message("a")).failure(), "a life that is not told lasts until it is refused");
    }

    @Test
    public void theFarewellEndsItOnceAndTheNextCallBeginsAnother() {
        EndpointReach reach = reach(null, null, true);
        Caller caller = caller(reach);
        reach.session().farewell(this::desk, reach, Transport.Limits.DEFAULT);
        assertEquals(sent.size(), 0, "there is none yet");
        caller.call(message("a"));
        reach.session().farewell(this::desk, reach, Transport.Limits.DEFAULT);
        reach.session().farewell(this::desk, reach, Transport.Limits.DEFAULT);
        assertTrue(sent.get(2).contains("<SignOff>tok&lt;en-1</SignOff>"), sent.toString());
        assertEquals(sent.size(), 3);
        assertNull(caller.call(message("b")).failure());
        assertEquals(reach.session().begun(), 2);
    }
}
