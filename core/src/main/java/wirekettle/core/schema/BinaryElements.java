package wirekettle.core.schema;

import java.util.Collection;
import java.util.Collections;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.Set;
import wirekettle.core.value.Name;

/** Finds the elements that hold binary content in base64 (XML Schema 1.0 part 2, 3.2.16). */
public final class BinaryElements {
    private final SchemaSet schemas;
    private final Set<Name> found = new HashSet<>();
    private final Set<Type> seen = Collections.newSetFromMap(new IdentityHashMap<>());

    private BinaryElements(SchemaSet schemas) {
        this.schemas = schemas;
    }

    /** Returns the names of all elements reached from the given ones, in any derived type, that hold base64. */
    public static Set<Name> of(SchemaSet schemas, Collection<ElementDecl> roots) {
        BinaryElements search = new BinaryElements(schemas);
        roots.forEach(search::element);
        return search.found;
    }

    private void element(ElementDecl element) {
        ValueRule rule = schemas.rule(element.type());
        if (rule != null && rule.builtIn() != null && rule.builtIn().name().equals("base64Binary")) {
            found.add(element.name());
        }
        type(schemas.type(element.type()));
        schemas.substitutes(element.name())
                .forEach(name -> type(schemas.type(schemas.element(name).type())));
    }

    private void type(Type type) {
        if (!(type instanceof ComplexType complex) || !seen.add(type)) {
            return;
        }
        schemas.content(complex).forEach(this::particle);
        if (complex.name() != null) {
            schemas.derivedTypes(complex.name()).forEach(name -> type(schemas.type(TypeUse.named(name))));
        }
    }

    private void particle(Particle particle) {
        if (particle instanceof Particle.Element local) {
            element(local.declaration());
        } else if (particle instanceof Particle.ElementRef ref && schemas.element(ref.name()) != null) {
            element(schemas.element(ref.name()));
        } else if (particle instanceof Particle.Group group) {
            group.parts().forEach(this::particle);
        } else if (particle instanceof Particle.GroupRef ref && schemas.group(ref.name()) != null) {
            particle(schemas.group(ref.name()));
        }
    }
}
