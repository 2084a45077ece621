package wirekettle.core.flow.compile;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;

/** The variables in reach at one place of a flow, with their shapes. Immutable. */
public final class Reach {
    /** Nothing but the run. */
    public static final Reach START = new Reach(List.of(new Variable(
            "run", "the run", null, new Shape.OfNames(List.of("id", "started", "now", "record", "source")), false)));

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
