package wirekettle.core.schema;

import wirekettle.core.value.Name;

/**
 * A reference to a named type or a type defined on the spot; both null means any type.
 *
 * @param name the name referred to, or null
 * @param inline the anonymous type, or null
 */
public record TypeUse(Name name, Type inline) {
    /** Any type at all. */
    public static final TypeUse ANY = new TypeUse(new Name(BuiltIn.XSD, "anyType"), null);

    /** Returns a reference by name. */
    public static TypeUse named(Name name) {
        return new TypeUse(name, null);
    }
}
