package wirekettle.core.schema;

import wirekettle.core.value.Name;

/** A type definition (XML Schema 1.0 part 1, 2.2.1). */
public sealed interface Type permits SimpleType, ComplexType {
    /** Returns the type's name, or null for an anonymous one. */
    Name name();

    /** Returns its documentation, empty when there is none. */
    String documentation();
}
