package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.SheetField.Choice;
import wirekettle.core.schema.SheetField.Kind;
import wirekettle.core.value.Name;

/** Makes the fields below a field of its type's content model: attributes first, then elements in schema order. */
final class SheetExpansion {
    private static final int DEEPEST = 40;

    private final SheetField parent;
    private final SchemaSet schemas;
    private final List<SheetField> fields = new ArrayList<>();
    private int choices;

    private SheetExpansion(SheetField parent, SchemaSet schemas) {
        this.parent = parent;
        this.schemas = schemas;
    }

    static List<SheetField> of(SheetField parent, SchemaSet schemas) {
        SheetExpansion expansion = new SheetExpansion(parent, schemas);
        if (schemas.type(parent.type()) instanceof ComplexType complex) {
            for (AttributeUse use : schemas.attributes(complex)) {
                expansion.fields.add(new SheetField(schemas, parent, use));
            }
            for (Particle particle : schemas.content(complex)) {
                expansion.add(particle, 1, 1, null, 0);
            }
        }
        return expansion.merged();
    }

    /** A name that stands in several places of a content model is one field: its path is the same. */
    private List<SheetField> merged() {
        Map<String, SheetField> byName = new LinkedHashMap<>();
        for (SheetField field : fields) {
            String key = field.kind() == Kind.ANY ? "any" + byName.size() : field.kind() + " " + field.name();
            byName.putIfAbsent(key, field);
        }
        return List.copyOf(byName.values());
    }

    private void add(Particle particle, int min, int max, Choice choice, int depth) {
        int least = Math.min(min, particle.min());
        int most = max < 0 || particle.max() < 0 ? -1 : Math.max(max, particle.max());
        if (depth > DEEPEST) {
            return;
        }
        if (particle instanceof Particle.Element element) {
            fields.add(new SheetField(schemas, parent, element.declaration(), least, most, choice));
        } else if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            ElementDecl declaration = found == null ? ElementDecl.of(ref.name(), TypeUse.ANY) : found;
            fields.add(new SheetField(schemas, parent, declaration, least, most, choice));
        } else if (particle instanceof Particle.Any any) {
            fields.add(new SheetField(schemas, parent, any, least, most, choice));
        } else if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            if (group != null) {
                add(group, least, most, choice, depth + 1);
            }
        } else if (particle instanceof Particle.Group group) {
            group(group, least, most, choice, depth);
        }
    }

    private void group(Particle.Group group, int least, int most, Choice choice, int depth) {
        boolean picks = group.kind() == Particle.Kind.CHOICE && group.parts().size() > 1;
        int number = picks ? ++choices : 0;
        boolean required = picks && least > 0 && choice == null && mustPick(group);
        boolean several = picks && (most != 1 || branchesShareNames(group));
        int branch = 0;
        for (Particle part : group.parts()) {
            branch++;
            Choice here = picks ? new Choice(number, branch, group.parts().size(), required, several) : choice;
            add(part, picks ? 0 : least, most, here, depth + 1);
        }
    }

    /** A choice with a branch that may be empty is met by nothing at all. */
    private static boolean mustPick(Particle.Group group) {
        return group.parts().stream().allMatch(part -> part.min() > 0);
    }

    /** Where a name stands in two branches, it alone does not say which one is meant. */
    private boolean branchesShareNames(Particle.Group choice) {
        Set<Name> seen = new HashSet<>();
        for (Particle branch : choice.parts()) {
            Set<Name> its = new HashSet<>();
            names(branch, its, 0);
            for (Name name : its) {
                if (!seen.add(name)) {
                    return true;
                }
            }
        }
        return false;
    }

    private void names(Particle particle, Set<Name> into, int depth) {
        if (depth > DEEPEST) {
            return;
        }
        if (particle instanceof Particle.Element element) {
            into.add(element.declaration().name());
        } else if (particle instanceof Particle.ElementRef ref) {
            into.add(ref.name());
        } else if (particle instanceof Particle.Group group) {
            group.parts().forEach(part -> names(part, into, depth + 1));
        } else if (particle instanceof Particle.GroupRef ref && schemas.group(ref.name()) != null) {
            names(schemas.group(ref.name()), into, depth + 1);
        }
    }
}
