package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

public class ReplayTest {
    private static final String NOW = "2026-11-28T22:00:00.000Z";

    private static Node node(String status) {
        return Node.build(Name.of("reply")).add("status", status).done();
    }

    @Test
    public void whatWasMadeComesBackAtItsPlace() {
        Replay replay = Replay.starting(NOW);
        replay.makes("", "asked", node("of the record"));
        replay.makes("crates:2", "asked", node("of its second crate"));
        replay.takes("", "which", 1);
        replay.takes("crates:2", "which", -1);
        Replay back = Replay.of(replay.text("crates:2"));
        assertEquals(back.now(), NOW);
        assertEquals(back.made("", "asked").textOf("status"), "of the record");
        assertEquals(back.made("crates:2", "asked").textOf("status"), "of its second crate");
        assertNull(back.made("crates:1", "asked"));
        assertEquals(back.way("", "which"), (Integer) 1);
        assertEquals(back.way("crates:2", "which"), (Integer) (-1));
        assertNull(back.way("crates:2", "other"));
    }

    @Test
    public void aClaimIsInDoubtUntilItsPassageIsKnown() throws Exception {
        Effect first = Effect.of("book", 1);
        Effect inside = new Effect("crates:1", "book", 1);
        Replay replay = Replay.starting(NOW);
        replay.claim(first);
        replay.claim(inside);
        assertTrue(replay.claimed(first) && replay.claimed(inside));
        replay.passage(inside, KeptNode.write(node("booked")));
        assertEquals(replay.done(inside).textOf("status"), "booked");
        assertTrue(replay.claimed(first));
        replay.passage(first, null);
        assertFalse(replay.claimed(first));
        assertNull(replay.done(first));
    }

    @Test
    public void aLaterClaimKnowsMore() {
        Replay first = Replay.starting(NOW);
        first.makes("", "asked", node("early"));
        Replay later = Replay.starting(NOW);
        later.makes("", "asked", node("early"));
        later.makes("", "looked", node("late"));
        first.add(later);
        assertEquals(first.made("", "looked").textOf("status"), "late");
    }

    @DataProvider
    public Object[][] damaged() {
        return new Object[][] {
            {""}, {"{"}, {"{\"made\":{\"asked\":\"<reply>\"}}"}, {"{\"made\":{\"asked\":\"no XML\"}}"}
        };
    }

    @Test(dataProvider = "damaged")
    public void whatIsDamagedIsSaidToBe(String text) {
        IllegalArgumentException e = expectThrows(IllegalArgumentException.class, () -> Replay.of(text));
        assertTrue(e.getMessage().startsWith("what was kept of a record cannot be read"), e.getMessage());
    }
}
