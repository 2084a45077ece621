package wirekettle.core.schema;

import wirekettle.core.value.Name;

/**
 * An element declaration (XML Schema 1.0 part 1, 3.3).
 *
 * @param name its expanded name as it appears in a message
 * @param type its type
 * @param nillable whether {@code xsi:nil} is allowed
 * @param isAbstract whether only substitutes may appear
 * @param defaultValue its default, or null
 * @param fixedValue its fixed value, or null
 * @param substitutionGroup the element it can stand for, or null
 * @param documentation its documentation
 */
public record ElementDecl(
        Name name,
        TypeUse type,
        boolean nillable,
        boolean isAbstract,
        String defaultValue,
        String fixedValue,
        Name substitutionGroup,
        String documentation) {
    /** Returns a plain element of a named type. */
    public static ElementDecl of(Name name, TypeUse type) {
        return new ElementDecl(name, type, false, false, null, null, null, "");
    }

    /** Returns this element with another type. */
    ElementDecl typed(TypeUse other) {
        return new ElementDecl(
                name, other, nillable, isAbstract, defaultValue, fixedValue, substitutionGroup, documentation);
    }
}
