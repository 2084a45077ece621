package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** The variables in reach at one place of a flow, with their shapes. Immutable. */
public final class Reach {
    /** Nothing but the run. */
    public static final Reach START = new Reach(List.of(new Variable(
            "run", "the run", null, new Shape.OfNames(List.of("id", "started", "now", "record", "source")), false)));

    /** The words for the ends of records. */
    static final List<String> ENDS = List.of("done", "rejected", "left-out", "in-doubt", "held-back");

    private static Column number(String name) {
        return new Column(name, name, ScalarType.DECIMAL, null, false);
    }

    /** The run once all its records have an end, with what is added up over them. */
    static Variable whole(List<String> sums) {
        List<Column> columns = new ArrayList<>();
        for (String name : List.of("id", "now", "source")) {
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
