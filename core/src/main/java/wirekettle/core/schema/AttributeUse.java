package wirekettle.core.schema;

import wirekettle.core.value.Name;

/**
 * An attribute of a complex type.
 *
 * @param name its name
 * @param type its simple type; null for a reference still to be looked up by name
 * @param required whether it must be there
 * @param prohibited whether a restriction took it away
 * @param defaultValue its default, or null
 * @param fixedValue its fixed value, or null
 * @param documentation its documentation
 */
public record AttributeUse(
        Name name,
        TypeUse type,
        boolean required,
        boolean prohibited,
        String defaultValue,
        String fixedValue,
        String documentation) {}
