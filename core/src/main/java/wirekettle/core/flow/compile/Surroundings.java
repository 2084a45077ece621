package wirekettle.core.flow.compile;

import java.util.Map;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.value.Layout;

/**
 * What a flow is compiled against.
 *
 * @param contracts the contracts by name; a missing one becomes a problem
 * @param layouts the layouts of the datasets read, by name; what is not there leaves wires into it unchecked
 * @param styles how endpoints want their messages written, by endpoint name
 * @param context the expression engine and the code tables
 * @param values the names of the values environments have
 */
public record Surroundings(
        Map<String, Contract> contracts,
        Map<String, Layout> layouts,
        Map<String, MessageStyle> styles,
        MappingContext context,
        Set<String> values) {
    /** Keeps its own copies. */
    public Surroundings {
        contracts = Map.copyOf(contracts);
        layouts = layouts == null ? Map.of() : Map.copyOf(layouts);
        styles = Map.copyOf(styles);
        values = Set.copyOf(values);
    }

    /** Makes surroundings of environments without named values. */
    public Surroundings(
            Map<String, Contract> contracts,
            Map<String, Layout> layouts,
            Map<String, MessageStyle> styles,
            MappingContext context) {
        this(contracts, layouts, styles, context, Set.of());
    }

    /** Returns surroundings without code tables; layouts may be null. */
    public static Surroundings of(
            Map<String, Contract> contracts, Map<String, Layout> layouts, Expressions expressions) {
        return new Surroundings(contracts, layouts, Map.of(), MappingContext.of(expressions));
    }
}
