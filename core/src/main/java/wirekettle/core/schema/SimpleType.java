package wirekettle.core.schema;

import java.util.List;
import wirekettle.core.value.Name;

/**
 * A simple type as written: restriction of a base, list, or union (XML Schema 1.0 part 1, 3.14).
 *
 * @param name its name, null when anonymous
 * @param documentation its documentation
 * @param base what it restricts, null for list and union
 * @param facets the facets given here
 * @param item the item type of a list, or null
 * @param members the member types of a union, empty otherwise
 */
public record SimpleType(
        Name name, String documentation, TypeUse base, Facets facets, TypeUse item, List<TypeUse> members)
        implements Type {}
