package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.Name;

/**
 * One row of a message sheet: an element or attribute with its type, occurrence and facets. Children are made on
 * demand, so recursive types never expand for ever. Safe for several threads.
 */
public final class SheetField {
    /** What a row stands for. */
    public enum Kind {
        /** An element. */
        ELEMENT,
        /** An attribute. */
        ATTRIBUTE,
        /** A place where any element may stand. */
        ANY
    }

    /**
     * Where a field stands in a choice.
     *
     * @param group number of the choice within its parent, from 1
     * @param branch the alternative it belongs to, from 1
     * @param of how many alternatives there are
     */
    public record Choice(int group, int branch, int of) {}

    private final SchemaSet schemas;
    private final SheetField parent;
    private final Kind kind;
    private final Name name;
    private final TypeUse type;
    private final int min;
    private final int max;
    private final Choice choice;
    private final boolean nillable;
    private final boolean isAbstract;
    private final String fixed;
    private final String defaultValue;
    private final String documentation;
    private final ValueRule rule;
    private volatile List<SheetField> children;

    private SheetField(SchemaSet schemas, SheetField parent, ElementDecl declaration, int min, int max, Choice choice) {
        this.schemas = schemas;
        this.parent = parent;
        this.kind = Kind.ELEMENT;
        this.name = declaration.name();
        this.type = declaration.type();
        this.min = min;
        this.max = max;
        this.choice = choice;
        this.nillable = declaration.nillable();
        this.isAbstract = declaration.isAbstract();
        this.fixed = declaration.fixedValue();
        this.defaultValue = declaration.defaultValue();
        this.rule = schemas.rule(type);
        String own = declaration.documentation();
        Type defined = schemas.type(type);
        this.documentation = own.isEmpty() && defined != null ? defined.documentation() : own;
    }

    private SheetField(SchemaSet schemas, SheetField parent, AttributeUse use) {
        this.schemas = schemas;
        this.parent = parent;
        this.kind = Kind.ATTRIBUTE;
        this.name = use.name();
        this.type = use.type();
        this.min = use.required() ? 1 : 0;
        this.max = 1;
        this.choice = null;
        this.nillable = false;
        this.isAbstract = false;
        this.fixed = use.fixedValue();
        this.defaultValue = use.defaultValue();
        this.documentation = use.documentation();
        this.rule = schemas.rule(type);
    }

    private SheetField(SchemaSet schemas, SheetField parent, Particle.Any any, int min, int max, Choice choice) {
        this.schemas = schemas;
        this.parent = parent;
        this.kind = Kind.ANY;
        this.name = Name.of("any");
        this.type = TypeUse.ANY;
        this.min = min;
        this.max = max;
        this.choice = choice;
        this.nillable = false;
        this.isAbstract = false;
        this.fixed = null;
        this.defaultValue = null;
        this.documentation = "any element" + (any.namespaces().equals("##any") ? "" : " of " + any.namespaces());
        this.rule = null;
    }

    /** Returns the sheet of a message whose root is {@code declaration}. */
    public static SheetField of(ElementDecl declaration, SchemaSet schemas) {
        return new SheetField(schemas, null, declaration, 1, 1, null);
    }

    /** Returns the fields directly below, attributes first, then elements in schema order. */
    public List<SheetField> children() {
        List<SheetField> made = children;
        if (made == null) {
            made = List.copyOf(expand());
            children = made;
        }
        return made;
    }

    private List<SheetField> expand() {
        List<SheetField> fields = new ArrayList<>();
        if (kind == Kind.ELEMENT && schemas.type(type) instanceof ComplexType complex) {
            for (AttributeUse use : schemas.attributes(complex)) {
                fields.add(new SheetField(schemas, this, use));
            }
            int[] choices = {0};
            for (Particle particle : schemas.content(complex)) {
                add(particle, 1, 1, null, fields, choices, 0);
            }
        }
        return fields;
    }

    private void add(
            Particle particle, int min, int max, Choice choice, List<SheetField> fields, int[] choices, int depth) {
        int least = Math.min(min, particle.min());
        int most = max < 0 || particle.max() < 0 ? -1 : Math.max(max, particle.max());
        if (depth > 40) {
            return;
        }
        if (particle instanceof Particle.Element element) {
            fields.add(new SheetField(schemas, this, element.declaration(), least, most, choice));
        } else if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            ElementDecl declaration = found == null ? ElementDecl.of(ref.name(), TypeUse.ANY) : found;
            fields.add(new SheetField(schemas, this, declaration, least, most, choice));
        } else if (particle instanceof Particle.Any any) {
            fields.add(new SheetField(schemas, this, any, least, most, choice));
        } else if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            if (group != null) {
                add(group, least, most, choice, fields, choices, depth + 1);
            }
        } else if (particle instanceof Particle.Group group) {
            boolean picks =
                    group.kind() == Particle.Kind.CHOICE && group.parts().size() > 1;
            int number = picks ? ++choices[0] : 0;
            int branch = 0;
            for (Particle part : group.parts()) {
                branch++;
                Choice here = picks ? new Choice(number, branch, group.parts().size()) : choice;
                add(part, picks ? 0 : least, most, here, fields, choices, depth + 1);
            }
        }
    }

    /** Returns the enclosing field, null for the root. */
    public SheetField parent() {
        return parent;
    }

    /** Returns what the row stands for. */
    public Kind kind() {
        return kind;
    }

    /** Returns the field's name. */
    public Name name() {
        return name;
    }

    /** Returns the declared type. */
    public TypeUse type() {
        return type;
    }

    /** Returns the least occurrence inside its parent, 0 inside a choice. */
    public int min() {
        return min;
    }

    /** Returns the greatest occurrence inside its parent, -1 for unbounded. */
    public int max() {
        return max;
    }

    /** Returns where it stands in a choice, or null. */
    public Choice choice() {
        return choice;
    }

    /** Tells whether {@code xsi:nil} is allowed. */
    public boolean nillable() {
        return nillable;
    }

    /** Tells whether a derived type or substitute must be picked before it can be written. */
    public boolean isAbstract() {
        return isAbstract || schemas.type(type) instanceof ComplexType complex && complex.isAbstract();
    }

    /** Returns the fixed value, or null. */
    public String fixed() {
        return fixed;
    }

    /** Returns the default value, or null. */
    public String defaultValue() {
        return defaultValue;
    }

    /** Returns the documentation of the field, or of its type where it has none of its own. */
    public String documentation() {
        return documentation;
    }

    /** Returns what its text may be; null when it holds no text. */
    public ValueRule rule() {
        return rule;
    }

    /** Tells whether the field holds text. */
    public boolean holdsText() {
        return rule != null || kind == Kind.ELEMENT && schemas.isAny(type);
    }

    /** Tells whether the field is any type because its type is not defined in any document. */
    public boolean unresolved() {
        return schemas.isAny(type) && kind == Kind.ELEMENT && !TypeUse.ANY.equals(type);
    }

    /** Tells whether the field must be filled whenever its parent is written. */
    public boolean required() {
        return min > 0 && choice == null;
    }

    /** Tells whether the same named type already stands above: such a field is expanded only by hand. */
    public boolean recursive() {
        for (SheetField above = parent; above != null; above = above.parent) {
            if (above.kind == Kind.ELEMENT
                    && (type.name() != null && type.name().equals(above.type.name())
                            || type.inline() != null && type.inline() == above.type.inline())) {
                return !children().isEmpty();
            }
        }
        return false;
    }

    /** Returns the type in a few characters. */
    public String typeLabel() {
        if (rule != null && rule.enumeration().size() > 1) {
            return rule.enumeration().size() + " values";
        }
        if (rule != null) {
            return rule.label();
        }
        if (kind == Kind.ANY || schemas.isAny(type)) {
            return "any";
        }
        return type.name() == null ? "" : type.name().local();
    }

    /** Returns the path from the root: {@code /{ns}a/{ns}b/@c}, the stable target of a fill. */
    public String path() {
        String own = (kind == Kind.ATTRIBUTE ? "/@" : "/") + name;
        return parent == null ? own : parent.path() + own;
    }

    /** Returns the field at a path below this root, or null. */
    public SheetField find(String path) {
        if (path.equals(path())) {
            return this;
        }
        if (!path.startsWith(path() + "/")) {
            return null;
        }
        for (SheetField child : children()) {
            SheetField found = child.find(path);
            if (found != null) {
                return found;
            }
        }
        return null;
    }
}
