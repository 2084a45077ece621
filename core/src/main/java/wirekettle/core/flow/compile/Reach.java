package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** The variables in reach at one place of a flow, with their shapes. Immutable. */
public final class Reach {
    /** What every stage reaches: the run and its environment. */
    public static final List<String> GIVEN = List.of("run", "env");

    private static final Variable RUN = new Variable(
            "run",
            "the run",
            null,
            new Shape.OfNames(List.of("id", "started", "now", "record", "source", "file", "key")),
            false);

    /** Nothing but the run. */
    static final Reach START = new Reach(List.of(RUN));

    /** Returns what is in reach of the first stage: the run, and the named values of its environment. */
    static Reach start(Set<String> values) {
        List<String> names = List.copyOf(new TreeSet<>(values));
        return new Reach(List.of(
                new Variable("env", "the values of the environment", null, new Shape.OfNames(names), false), RUN));
    }

    /** The words for the ends of records. */
    static final List<String> ENDS = List.of("done", "rejected", "left-out", "in-doubt", "held-back");

    private static Column number(String name) {
        return new Column(name, name, ScalarType.DECIMAL, null, false);
    }

    /** The run once all its records have an end, with what is added up over them. */
    static Variable whole(List<String> sums) {
        List<Column> columns = new ArrayList<>();
        for (String name : List.of("id", "now", "source", "file", "key")) {
            columns.add(new Column(name, name, ScalarType.STRING, null, false));
        }
        for (String name : List.of("read", "saved", "rows")) {
            columns.add(number(name));
        }
        ENDS.forEach(end -> columns.add(number(end)));
        sums.forEach(sum -> ENDS.forEach(end -> columns.add(number("sums/" + sum + "/" + end))));
        return new Variable("run", "what the run has come to", null, new Shape.OfColumns(columns, false), false);
    }

    private final List<Variable> variables;

    private Reach(List<Variable> variables) {
        this.variables = List.copyOf(variables);
    }

    /** Returns a reach that has one variable more, in the place of one of its name. */
    Reach with(Variable variable) {
        List<Variable> all = new ArrayList<>(variables);
        all.removeIf(each -> each.name().equals(variable.name()));
        all.add(variable);
        return new Reach(all);
    }

    /** Returns the variables, the one made last at the end. */
    public List<Variable> variables() {
        return variables;
    }

    /** Returns the variable of a name, or null. */
    public Variable get(String name) {
        return variables.stream()
                .filter(each -> each.name().equals(name))
                .findFirst()
                .orElse(null);
    }

    /** Returns the names. */
    public Set<String> names() {
        Set<String> names = new TreeSet<>();
        variables.forEach(each -> names.add(each.name()));
        return names;
    }
}
