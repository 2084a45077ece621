package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import wirekettle.core.value.Name;

/** All components of a contract's schemas, found by name, and what follows from them together. Read-only once built. */
public final class SchemaSet {
    private final Map<ComplexType, Optional<ContentModel>> models =
            Collections.synchronizedMap(new IdentityHashMap<>());
    final Map<Name, ElementDecl> elements = new LinkedHashMap<>();
    final Map<Name, Type> types = new LinkedHashMap<>();
    final Map<Name, AttributeUse> attributes = new HashMap<>();
    final Map<Name, Particle> groups = new HashMap<>();
    final Map<Name, AttributeGroup> attributeGroups = new HashMap<>();
    /** Names that are used for a component of another name, by kind and name. */
    final Map<String, Name> aliases = new HashMap<>();
    /** Kinds and names of what was redefined; the originals stand under {@link #original}. */
    final java.util.Set<String> redefined = new java.util.HashSet<>();

    private final Map<SimpleType, ValueRule> rules = new ConcurrentHashMap<>();
    private volatile Map<Name, List<Name>> derived;
    private volatile Map<Name, List<Name>> substitutes;

    record AttributeGroup(List<AttributeUse> attributes, List<Name> groups) {}

    /** Returns the name under which the original of a redefined component is kept. */
    static Name original(Name name) {
        return new Name(name.namespace(), name.local() + ".before-redefine");
    }

    void alias(String kind, Name used, Name defined) {
        aliases.put(kind + " " + used, defined);
        switch (kind) {
            case "element" -> elements.put(used, elements.get(defined));
            case "type" -> types.put(used, types.get(defined));
            case "group" -> groups.put(used, groups.get(defined));
            case "attribute" -> attributes.put(used, attributes.get(defined));
            default -> attributeGroups.put(used, attributeGroups.get(defined));
        }
    }

    /** Returns the name a component is defined under, whatever name it was used by. */
    Name defined(String kind, Name used) {
        return aliases.getOrDefault(kind + " " + used, used);
    }

    /** Returns a global element, or null. */
    public ElementDecl element(Name name) {
        return elements.get(name);
    }

    /** Returns all global elements. */
    public List<ElementDecl> elements() {
        return elements.entrySet().stream()
                .filter(e -> !aliases.containsKey("element " + e.getKey()))
                .map(Map.Entry::getValue)
                .toList();
    }

    /** Returns the names of all named types. */
    public List<Name> typeNames() {
        return types.keySet().stream()
                .filter(name -> !aliases.containsKey("type " + name)
                        && !name.namespace().equals(SoapEncoding.NAMESPACE)
                        && !name.local().endsWith(".before-redefine"))
                .toList();
    }

    /** Returns the number of named types. */
    public int typeCount() {
        return typeNames().size();
    }

    /** Returns the type a use refers to; null when it is any type, a built-in, or could not be found. */
    public Type type(TypeUse use) {
        return use.inline() != null ? use.inline() : types.get(use.name());
    }

    /** Returns what a simple type, or the text of a complex type with simple content, allows; null for others. */
    public ValueRule rule(TypeUse use) {
        return rule(use, 0);
    }

    private ValueRule rule(TypeUse use, int depth) {
        if (depth > 64) {
            return null;
        }
        if (use.inline() == null && use.name().namespace().equals(BuiltIn.XSD)) {
            BuiltIn builtIn = BuiltIn.of(use.name().local());
            return builtIn == null ? null : new ValueRule(builtIn, List.of(), null, List.of());
        }
        Type type = type(use);
        if (type instanceof SimpleType simple) {
            ValueRule known = rules.get(simple);
            if (known == null) {
                known = build(simple, depth);
                rules.put(simple, known);
            }
            return known;
        }
        if (type instanceof ComplexType complex && complex.simpleContent() && complex.base() != null) {
            ValueRule base = rule(complex.base(), depth + 1);
            return base == null ? null : base.restricted(complex.contentFacets());
        }
        return null;
    }

    private ValueRule build(SimpleType simple, int depth) {
        BuiltIn text = BuiltIn.of("string");
        if (simple.item() != null) {
            ValueRule item = rule(simple.item(), depth + 1);
            return new ValueRule(text, List.of(), item == null ? any() : item, List.of());
        }
        if (!simple.members().isEmpty()) {
            List<ValueRule> members = new ArrayList<>();
            for (TypeUse member : simple.members()) {
                ValueRule rule = rule(member, depth + 1);
                members.add(rule == null ? any() : rule);
            }
            return new ValueRule(text, List.of(), null, members);
        }
        ValueRule base = simple.base() == null ? null : rule(simple.base(), depth + 1);
        return (base == null ? any() : base).restricted(simple.facets());
    }

    private static ValueRule any() {
        return new ValueRule(BuiltIn.of("anySimpleType"), List.of(), null, List.of());
    }

    /** Tells whether a use means any type, on purpose or because it could not be found. */
    public boolean isAny(TypeUse use) {
        return use.inline() == null
                && (use.name().namespace().equals(BuiltIn.XSD)
                        ? use.name().local().equals("anyType")
                        : !types.containsKey(use.name()));
    }

    /** Returns the whole content of a complex type, what it inherits first; empty when there is none. */
    public List<Particle> content(ComplexType type) {
        List<Particle> parts = new ArrayList<>();
        content(type, parts, 0);
        return parts;
    }

    /** Returns the content model of a type; it is made once, since a message is asked for it at every edit. */
    Optional<ContentModel> model(ComplexType type) {
        return models.computeIfAbsent(type, t -> Optional.ofNullable(ContentModel.of(content(t), this)));
    }

    private void content(ComplexType type, List<Particle> parts, int depth) {
        if (type.extension() && type.base() != null && depth < 64 && type(type.base()) instanceof ComplexType base) {
            content(base, parts, depth + 1);
        }
        if (type.content() != null) {
            parts.add(type.content());
        }
    }

    /** Returns all attributes of a complex type, inherited ones first, prohibited ones left out. */
    public List<AttributeUse> attributes(ComplexType type) {
        Map<Name, AttributeUse> all = new LinkedHashMap<>();
        attributes(type, all, 0);
        all.values().removeIf(AttributeUse::prohibited);
        return List.copyOf(all.values());
    }

    private void attributes(ComplexType type, Map<Name, AttributeUse> all, int depth) {
        if (depth > 64) {
            return;
        }
        if (type.base() != null && type(type.base()) instanceof ComplexType base) {
            attributes(base, all, depth + 1);
        }
        addAll(type.attributes(), type.attributeGroups(), all, depth);
    }

    private void addAll(List<AttributeUse> own, List<Name> groupNames, Map<Name, AttributeUse> all, int depth) {
        for (Name groupName : groupNames) {
            AttributeGroup group = attributeGroups.get(groupName);
            if (group != null && depth < 64) {
                addAll(group.attributes(), group.groups(), all, depth + 1);
            }
        }
        for (AttributeUse use : own) {
            AttributeUse global = use.type() == null ? attributes.get(use.name()) : null;
            TypeUse type = use.type() != null
                    ? use.type()
                    : global != null ? global.type() : TypeUse.named(new Name(BuiltIn.XSD, "string"));
            all.put(
                    use.name(),
                    new AttributeUse(
                            use.name(),
                            type,
                            use.required(),
                            use.prohibited(),
                            use.defaultValue() != null || global == null ? use.defaultValue() : global.defaultValue(),
                            use.fixedValue() != null || global == null ? use.fixedValue() : global.fixedValue(),
                            use.documentation()));
        }
    }

    /** Returns a named group's content, or null. */
    public Particle group(Name name) {
        return groups.get(name);
    }

    /** Returns the named complex types derived from {@code base}, at any distance, that may appear in a message. */
    public List<Name> derivedTypes(Name base) {
        if (derived == null) {
            Map<Name, List<Name>> found = new HashMap<>();
            types.forEach((name, type) -> {
                if (type instanceof ComplexType complex
                        && complex.base() != null
                        && complex.base().name() != null
                        && !aliases.containsKey("type " + name)) {
                    found.computeIfAbsent(defined("type", complex.base().name()), n -> new ArrayList<>())
                            .add(name);
                }
            });
            derived = found;
        }
        List<Name> all = closure(defined("type", base), derived);
        all.removeIf(name -> types.get(name) instanceof ComplexType complex && complex.isAbstract());
        return all;
    }

    /** Returns the concrete elements that can stand for {@code head}, at any distance. */
    public List<Name> substitutes(Name head) {
        if (substitutes == null) {
            Map<Name, List<Name>> found = new HashMap<>();
            elements.forEach((name, element) -> {
                if (element.substitutionGroup() != null && !aliases.containsKey("element " + name)) {
                    found.computeIfAbsent(defined("element", element.substitutionGroup()), n -> new ArrayList<>())
                            .add(name);
                }
            });
            substitutes = found;
        }
        List<Name> all = closure(defined("element", head), substitutes);
        all.removeIf(name -> elements.get(name).isAbstract());
        return all;
    }

    private static List<Name> closure(Name start, Map<Name, List<Name>> next) {
        java.util.Set<Name> all = new java.util.LinkedHashSet<>();
        java.util.ArrayDeque<Name> open = new java.util.ArrayDeque<>(next.getOrDefault(start, List.of()));
        while (!open.isEmpty()) {
            Name name = open.remove();
            if (!name.equals(start) && all.add(name)) {
                open.addAll(next.getOrDefault(name, List.of()));
            }
        }
        return new ArrayList<>(all);
    }
}
