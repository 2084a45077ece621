package wirekettle.core.flow.compile;

import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Operation;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Column;
import wirekettle.core.value.Layout;

/** The known structure of a variable's tree before it has a value. */
public sealed interface Shape {
    /** Tells whether two shapes are interchangeable: what reads one can read the other. */
    default boolean same(Shape other) {
        return equals(other);
    }

    /**
     * A record of a dataset.
     *
     * @param layout its fields
     * @param grouped whether it has children called {@code line}
     */
    record OfLayout(Layout layout, boolean grouped) implements Shape {}

    /**
     * A message's element.
     *
     * @param sheet its fields
     */
    record OfSheet(SheetField sheet) implements Shape {
        @Override
        public boolean same(Shape other) {
            return other instanceof OfSheet its
                    && its.sheet().name().equals(sheet.name())
                    && its.sheet().typeLabel().equals(sheet.typeLabel());
        }
    }

    /**
     * A record made by fills.
     *
     * @param columns its fields; a name may be a place, {@code crates/no}
     * @param rows whether the fields are those of its children called {@code row}
     */
    record OfColumns(List<Column> columns, boolean rows) implements Shape {}

    /**
     * Named texts.
     *
     * @param names their names
     */
    record OfNames(List<String> names) implements Shape {}

    /**
     * The fault of a call.
     *
     * @param contract the contract called, null where it may be any
     * @param operation the operation called, null where it may be any
     */
    record OfFault(Contract contract, Operation operation) implements Shape {}

    /**
     * One of several that were worked on together.
     *
     * @param said the names of what is said of it, as its {@code position}
     * @param made its variables
     */
    record OfItem(List<String> said, List<Variable> made) implements Shape {}

    /**
     * An {@code item} for each of several.
     *
     * @param item what is known of each
     */
    record OfItems(OfItem item) implements Shape {}

    /** Nothing is known before the value is made, as for the result of a script. */
    record Open() implements Shape {}
}
