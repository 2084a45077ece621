package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;

import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.testng.annotations.Test;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.file.CallStage;
import wirekettle.core.flow.file.Lane;
import wirekettle.core.flow.file.SplitStage;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** A key made once for an item is the same in every try, and after a crash. */
public class RunKeyTest extends OutlineFixture {
    /** As much of it as the service takes. */
    private static final String KEY = "substring($run/key, 1, 8)";

    @Test
    public void aTryAndARunThatGoesOnSendTheSameKey() throws Exception {
        Lane again = Lane.of(Lane.Rule.again("again", ANY, 2, 1));
        CallStage book = (CallStage) changes("book", KEY).failing(again);
        CompiledFlow flow =
                sound(file(book, changes("second", "concat('second ', " + KEY + ")"), write("out", KEY, "$run/key")));
        service = request -> sent.size() < 3 ? fault("busy") : answer(reference(request), "fine");
        Ran whole = Ran.of(flow, doors(flow), records("a"));
        assertEquals(sent.size(), 4);
        String key = sent.get(0);
        assertEquals(Set.copyOf(sent), Set.of(key, "second " + key));
        Ran killed = new Ran();
        // how many of the tries are in the books of their own depends on what was written together
        whole.claims.stream()
                .filter(each -> each.effect().stage().equals("book"))
                .forEach(killed.claims::add);
        whole.known.stream()
                .filter(each -> each.passage().effect().stage().equals("book"))
                .forEach(killed.known::add);
        killed.totals = Totals.NONE.reading(1);
        sent.clear();
        service = request -> answer(reference(request), "fine");
        Ran resumed = new Ran()
                .prepared(flow, doors(flow), Ran.source(records("a")), killed.past(), FlowRun.Extent.ALL)
                .go();
        assertEquals(sent, List.of("second " + key));
        String row = resumed.rows.get("out").get(0);
        assertEquals(row.split("\\|")[0], key);
        assertEquals(UUID.fromString(row.split("\\|")[1]).toString(), row.split("\\|")[1]);
    }

    @Test
    public void everyRecordAndEveryItemHasItsOwn() throws Exception {
        SplitStage split = new SplitStage("crates", "$t/crate", "crate", 2, List.of(changes("book", KEY)), null, null);
        CompiledFlow flow = sound(file(split, changes("whole", KEY)));
        Node.Builder record = Node.build(Name.of("record")).add("key", "a").add("n", "1");
        for (String each : List.of("x", "y", "z")) {
            record.add(Node.build(Name.of("crate")).add("no", each).done());
        }
        Node one = record.done();
        Ran.of(flow, doors(flow), List.of(one, one));
        assertEquals(sent.size(), 8);
        assertEquals(new HashSet<>(sent).size(), 8);
    }

    @Test
    public void aRunOfItsOwnMakesOthers() throws Exception {
        CompiledFlow flow = sound(file(changes("book", KEY)));
        Ran.of(flow, doors(flow), records("a"));
        Ran.of(flow, doors(flow), records("a"));
        assertNotEquals(sent.get(0), sent.get(1));
    }
}
