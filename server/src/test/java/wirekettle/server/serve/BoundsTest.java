package wirekettle.server.serve;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;
import wirekettle.server.triggers.CallerPath;
import wirekettle.server.web.Problem;

/** What holds callers within bounds, and the paths they ask. */
public class BoundsTest {
    private static final long SECOND = 1_000_000_000L;

    @Test
    public void aLargeRequestIsTakenAloneAndManyShareWhatThereIs() {
        HeldBytes held = new HeldBytes(100);
        assertTrue(held.take(500), "nobody else has sent anything");
        assertFalse(held.take(1));
        held.give(500);
        assertTrue(held.take(60));
        assertTrue(held.take(40));
        assertFalse(held.take(1));
        held.give(60);
        assertTrue(held.take(60));
    }

    @Test
    public void aMinutesWorthComesAtOnceAndThenAsItComesBack() {
        CallerPace pace = new CallerPace();
        for (int i = 0; i < 30; i++) {
            assertEquals(pace.takes("one", 30, SECOND), 0);
        }
        assertEquals(pace.takes("one", 30, SECOND), 2, "one in two seconds comes back");
        assertEquals(pace.takes("other", 30, SECOND), 0);
        assertEquals(pace.takes("free", null, SECOND), 0);
        assertEquals(pace.takes("one", 30, 4 * SECOND), 0);
        assertEquals(pace.takes("one", 30, 4 * SECOND), 1);
        assertEquals(pace.takes("one", 30, 3_000 * SECOND), 0, "never more than a minute's worth");
    }

    @Test
    public void aGoodAnswerIsGivenAgainUntilItsTimeIsOver() {
        Remembered remembered = new Remembered(10);
        Reply good = new Reply(200, Reply.JSON, "{}", Map.of());
        assertEquals(remembered.put("a", good, 0).headers().get("Cache-Control"), "private, max-age=10");
        assertEquals(remembered.get("a", 9_999).headers().get("Age"), "9");
        assertNull(remembered.get("a", 10_000));
        assertNull(remembered.get("b", 0));
        remembered.put("b", Reply.problem(404, "gone", "gone"), 0);
        assertNull(remembered.get("b", 1));
        remembered.put("big", new Reply(200, Reply.JSON, "x".repeat(200_000), Map.of()), 0);
        assertNull(remembered.get("big", 1));
        for (int i = 0; i < 1_001; i++) {
            remembered.put("k" + i, good, 0);
        }
        assertNull(remembered.get("k0", 1), "the oldest gives way");
        assertNull(new Remembered(null).get("a", 0));
    }

    @Test
    public void aPathHasFieldsAndIsToldApart() {
        CallerPath path = CallerPath.of("test/loans/{loan_no}/crates");
        assertEquals(path.fields(), List.of("loan_no"));
        assertEquals(path.literals(), 3);
        assertEquals(path.values(List.of("test", "loans", "HC 1/2", "crates")), Map.of("loan_no", List.of("HC 1/2")));
        assertNull(path.values(List.of("test", "loans", "", "crates")));
        assertNull(path.values(List.of("test", "loans", "x")));
        assertNull(path.values(List.of("test", "loan", "x", "crates")));
        for (String wrong : new String[] {
            null,
            "",
            "/test",
            "test/",
            "Test",
            "{a}",
            "test/{a}/{a}",
            "test/answers",
            "test/openapi.json",
            "a b",
            "a/b/c/d/e/f/g/h/i",
            "test/{1a}"
        }) {
            try {
                CallerPath.of(wrong);
                throw new AssertionError(wrong + " is no path");
            } catch (Problem e) {
                assertEquals(e.code(), "bad-path");
            }
        }
    }
}
