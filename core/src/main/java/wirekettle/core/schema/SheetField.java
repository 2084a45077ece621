package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
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
     * @param required whether one of them must be there
     * @param repeats whether fields of several branches may be there together
     */
    public record Choice(int group, int branch, int of, boolean required, boolean repeats) {}

    private final SchemaSet schemas;
    private final ElementDecl declared;
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
    private final SheetField head;
    private final int occurrence;
    private final Name picked;
    private Map<String, EmbeddedShape> documents = Map.of();
    private volatile List<SheetField> children;
    private volatile String path;

    SheetField(SchemaSet schemas, SheetField parent, ElementDecl declaration, int min, int max, Choice choice) {
        this(schemas, parent, declaration, min, max, choice, null, 1, null);
    }

    private SheetField(
            SchemaSet schemas,
            SheetField parent,
            ElementDecl declaration,
            int min,
            int max,
            Choice choice,
            SheetField head,
            int occurrence,
            Name picked) {
        this.head = head;
        this.occurrence = occurrence;
        this.picked = picked;
        this.schemas = schemas;
        this.parent = parent;
        this.kind = Kind.ELEMENT;
        this.name = declaration.name();
        this.type = picked == null ? declaration.type() : TypeUse.named(picked);
        this.declared = declaration;
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

    SheetField(SchemaSet schemas, SheetField parent, AttributeUse use) {
        this.head = null;
        this.occurrence = 1;
        this.picked = null;
        this.declared = null;
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

    SheetField(SchemaSet schemas, SheetField parent, Particle.Any any, int min, int max, Choice choice) {
        this.head = null;
        this.occurrence = 1;
        this.picked = null;
        this.declared = null;
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

    /** Returns the sheet of a message with documents inside some of its fields, by the fields' paths. */
    public static SheetField of(ElementDecl declaration, SchemaSet schemas, Map<String, EmbeddedShape> documents) {
        SheetField root = of(declaration, schemas);
        root.documents = Map.copyOf(documents);
        return root;
    }

    /**
     * Returns the fields directly below, attributes first, then elements in schema order, last the root of a document
     * the field holds as text.
     */
    public List<SheetField> children() {
        List<SheetField> made = children;
        if (made == null) {
            made = kind == Kind.ELEMENT ? SheetExpansion.of(this, schemas) : List.of();
            EmbeddedShape document = document();
            if (document != null) {
                made = new ArrayList<>(made);
                made.removeIf(child -> child.kind == Kind.ANY);
                made.add(new SheetField(document.schemas(), this, document.root(), 1, 1, null));
                made = List.copyOf(made);
            }
            children = made;
        }
        return made;
    }

    /** Returns the shape of the document the field holds as text, null when it holds none. */
    public EmbeddedShape document() {
        SheetField root = this;
        while (root.parent != null) {
            root = root.parent;
        }
        return root.documents.isEmpty() ? null : root.documents.get(path());
    }

    /** Tells whether the field is the root of a document inside the field above. */
    public boolean embedded() {
        return parent != null && parent.schemas != schemas;
    }

    /**
     * Returns this field as a step names it: with a derived type, a further occurrence, or an element that can stand
     * for it; null when the step is no way to write this field.
     */
    public SheetField as(SheetPath.Step step) {
        if (kind != Kind.ELEMENT || step.attribute()) {
            return null;
        }
        ElementDecl written = declared;
        if (!step.name().equals(name)) {
            if (!global() || !schemas.substitutes(name).contains(step.name())) {
                return null;
            }
            written = schemas.element(step.name());
        }
        if (step.type() != null && !typeFits(written, step.type())
                || step.occurrence() > 1 && max >= 0 && step.occurrence() > max) {
            return null;
        }
        if (written == declared && step.occurrence() == 1 && step.type() == null) {
            return this;
        }
        SheetField picking = new SheetField(
                schemas,
                parent,
                written,
                step.occurrence() > 1 ? 0 : min,
                max,
                choice,
                this,
                step.occurrence(),
                step.type());
        picking.documents = documents;
        return picking;
    }

    private boolean typeFits(ElementDecl written, Name wanted) {
        return TypeUse.named(wanted).equals(written.type())
                || written.type().name() != null
                        && schemas.derivedTypes(written.type().name()).contains(wanted)
                || schemas.isAny(written.type()) && schemas.type(TypeUse.named(wanted)) != null;
    }

    /** Only references to global elements can be substituted. */
    private boolean global() {
        return declared == schemas.element(name);
    }

    /** Returns the field as the schema declares it: for a picked one what it was picked for, else the field itself. */
    public SheetField declaredField() {
        return head == null ? this : head;
    }

    /** Returns the derived type picked, or null. */
    public Name picked() {
        return picked;
    }

    /** Returns which of repeated elements this is, from 1. */
    public int occurrence() {
        return occurrence;
    }

    /** Returns the types that may be picked for this field, the declared one first unless it is abstract. */
    public List<Name> typeChoices() {
        if (kind != Kind.ELEMENT || declared.type().name() == null) {
            return List.of();
        }
        List<Name> derived = schemas.derivedTypes(declared.type().name());
        if (derived.isEmpty()) {
            return List.of();
        }
        List<Name> all = new ArrayList<>();
        boolean own = schemas.type(declared.type()) instanceof ComplexType complex && complex.isAbstract();
        if (!own) {
            all.add(declared.type().name());
        }
        all.addAll(derived);
        return all;
    }

    /** Returns the elements that may stand in this field's place, itself first unless it is abstract. */
    public List<Name> elementChoices() {
        SheetField origin = declaredField();
        if (kind != Kind.ELEMENT || !origin.global()) {
            return List.of();
        }
        List<Name> others = schemas.substitutes(origin.name);
        if (others.isEmpty()) {
            return List.of();
        }
        List<Name> all = new ArrayList<>();
        if (!origin.declared.isAbstract()) {
            all.add(origin.name);
        }
        all.addAll(others);
        return all;
    }

    SchemaSet schemas() {
        return schemas;
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

    /** Returns the type of its items when the field is a SOAP 1.1 array (5.4.2), else null. */
    public Name arrayOf() {
        return kind == Kind.ELEMENT && schemas.type(type) instanceof ComplexType complex ? complex.arrayOf() : null;
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
        if (arrayOf() != null) {
            return arrayOf().local() + "[]";
        }
        return type.name() == null ? "" : type.name().local();
    }

    /** Returns the path from the root: {@code /{ns}a/{ns}b/@c}, the stable target of a fill; see {@link SheetPath}. */
    public String path() {
        String known = path;
        if (known == null) {
            known = (parent == null ? "" : parent.path())
                    + new SheetPath.Step(name, kind == Kind.ATTRIBUTE, occurrence, picked);
            path = known;
        }
        return known;
    }

    /** Returns the field at a path below this root, with what the path picks; null when there is none. */
    public SheetField find(String wanted) {
        SheetPath parsed;
        try {
            parsed = SheetPath.parse(wanted);
        } catch (IllegalArgumentException e) {
            return null;
        }
        SheetField at =
                parent == null && !parsed.steps().isEmpty() ? as(parsed.steps().get(0)) : null;
        for (int i = 1; at != null && i < parsed.steps().size(); i++) {
            at = at.child(parsed.steps().get(i));
        }
        return at;
    }

    private SheetField child(SheetPath.Step step) {
        SheetField substituted = null;
        for (SheetField child : children()) {
            if (child.name.equals(step.name()) && (child.kind == Kind.ATTRIBUTE) == step.attribute()) {
                return step.attribute() ? child : child.as(step);
            }
            if (substituted == null && !step.attribute() && child.kind == Kind.ELEMENT) {
                substituted = child.as(step);
            }
        }
        return substituted;
    }
}
