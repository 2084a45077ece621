package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicReference;
import org.testng.annotations.Test;
import wirekettle.core.soap.EndpointHours;
import wirekettle.core.soap.EndpointSettings;

/** An endpoint that is closed for a while, and shares of its limits. */
public class GateTest extends OutlineFixture {
    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.parse("2026-12-01T12:00:00Z"));
    private final Clock clock = new Clock() {
        @Override
        public ZoneId getZone() {
            return ZoneOffset.UTC;
        }

        @Override
        public Clock withZone(ZoneId zone) {
            return this;
        }

        @Override
        public Instant instant() {
            return now.get();
        }
    };

    private static EndpointSettings.Limits limits(Integer atOnce, Integer percent, EndpointHours hours) {
        return new EndpointSettings.Limits(null, null, null, null, null, atOnce, null, percent, hours);
    }

    @Test
    public void aRunWaitsUntilTheEndpointOpensAndGoesOnByItself() throws IOException {
        EndpointHours night =
                new EndpointHours("UTC", List.of(new EndpointHours.Span(List.of(), "22:00", "23:00", null)), null);
        EndpointGate gate = EndpointGate.of(limits(null, null, night), clock);
        var flow = sound(file(reads("track", "$t/key"), write("w", "$t/key")));
        CompletableFuture<Ran> ran = CompletableFuture.supplyAsync(() -> {
            try {
                return Ran.of(flow, doors(flow, gate), records("a", "b"));
            } catch (IOException e) {
                throw new IllegalStateException(e);
            }
        });
        while (gate.resting() == null) {
            Thread.onSpinWait();
        }
        assertEquals(gate.resting(), "the endpoint is closed until 2026-12-01T22:00:00Z");
        assertTrue(sent.isEmpty());
        now.set(Instant.parse("2026-12-01T22:00:00Z"));
        assertEquals(ran.join().totals.of(End.DONE), 2L);
        assertNull(gate.resting());
    }

    @Test
    public void runsHaveTheirShareOfTheLimits() throws Exception {
        EndpointGate gate = EndpointGate.of(limits(4, 50, null), clock);
        gate.enter(Stop.NEVER);
        gate.enter(Stop.NEVER);
        Thread third = new Thread(() -> {
            try {
                gate.enter(Stop.NEVER);
            } catch (Stopped e) {
                throw new IllegalStateException(e);
            }
        });
        third.start();
        while (third.getState() != Thread.State.TIMED_WAITING) {
            assertTrue(third.isAlive(), "two of four are for others");
        }
        gate.leave(null);
        third.join();
    }
}
