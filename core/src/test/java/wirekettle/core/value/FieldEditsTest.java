package wirekettle.core.value;

import static org.testng.Assert.assertEquals;

import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;

/** Fields of a record as a person corrects them. */
public class FieldEditsTest {
    private static final Node LOAN = Node.build(Name.of("loan"))
            .add("no", "L-1")
            .add(Node.build(Name.of("line")).add("kg", "10").done())
            .add(Node.build(Name.of("line")).add("kg", "x").done())
            .add(Node.build(Name.of("to")).add("town", "").done())
            .done();

    @Test
    public void everyLeafHasAPath() {
        assertEquals(List.copyOf(FieldEdits.of(LOAN).keySet()), List.of("no", "line[1]/kg", "line[2]/kg", "to/town"));
    }

    @Test
    public void editsChangeWhatTheyName() {
        Node changed = FieldEdits.applied(LOAN, Map.of("line[2]/kg", "12", "to/town", "Öderstad", "nowhere", "?"));
        assertEquals(
                FieldEdits.of(changed),
                Map.of("no", "L-1", "line[1]/kg", "10", "line[2]/kg", "12", "to/town", "Öderstad"));
        assertEquals(FieldEdits.of(LOAN).get("line[2]/kg"), "x", "the record itself stays");
    }
}
