package wirekettle.core.schema;

import java.util.List;
import wirekettle.core.value.Name;

/**
 * A complex type as written (XML Schema 1.0 part 1, 3.4).
 *
 * @param name its name, null when anonymous
 * @param documentation its documentation
 * @param base the type it extends or restricts, or null
 * @param extension whether it extends (true) or restricts (false) its base
 * @param content its own content, null when empty
 * @param attributes its own attributes
 * @param attributeGroups names of attribute groups it takes in
 * @param simpleContent whether it holds text described by its base
 * @param contentFacets facets restricting simple content
 * @param mixed whether text may stand between elements
 * @param isAbstract whether only derived types may appear
 * @param anyAttribute whether attributes of any name are allowed
 * @param arrayOf the type of the items of a SOAP 1.1 array, else null
 */
public record ComplexType(
        Name name,
        String documentation,
        TypeUse base,
        boolean extension,
        Particle content,
        List<AttributeUse> attributes,
        List<Name> attributeGroups,
        boolean simpleContent,
        Facets contentFacets,
        boolean mixed,
        boolean isAbstract,
        boolean anyAttribute,
        Name arrayOf)
        implements Type {
    /** Returns an anonymous type of one sequence, as made up for rpc wrappers. */
    public static ComplexType sequence(List<Particle> parts) {
        Particle content = new Particle.Group(Particle.Kind.SEQUENCE, List.copyOf(parts), 1, 1);
        return new ComplexType(
                null, "", null, false, content, List.of(), List.of(), false, Facets.NONE, false, false, false, null);
    }
}
