package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import wirekettle.core.schema.SheetPath.Step;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Builds a valid example of a message: only what is required, or every optional part once, and what was picked. */
public final class ExampleMessage {
    private static final int MOST_STEPS = 200_000;
    private static final int MOST_NODES = 20_000;
    private static final int DEEPEST = 30;

    private final SchemaSet schemas;
    private final Wish wish;
    private final List<String> problems = new ArrayList<>();
    private final List<Object> open = new ArrayList<>();
    private int nodes;
    private int ids;
    private int groups;
    private int steps;
    private boolean cut;
    private boolean refersToId;

    private ExampleMessage(SchemaSet schemas, Wish wish) {
        this.schemas = schemas;
        this.wish = wish;
    }

    /**
     * What kind of example.
     *
     * @param complete every optional part once, not only what is required
     * @param picks derived types, substitutes, branches and occurrences wanted
     * @param encoded every element tells its type, as SOAP encoding wants it (SOAP 1.1, 5)
     */
    public record Wish(boolean complete, Picks picks, boolean encoded) {
        /** Only what is required. */
        public static final Wish MINIMAL = new Wish(false, Picks.NONE, false);
        /** Every optional part once. */
        public static final Wish COMPLETE = new Wish(true, Picks.NONE, false);
    }

    /**
     * An example and why it may not be valid.
     *
     * @param root the message
     * @param problems reasons why no valid value could be made, empty when all went well
     */
    public record Result(Node root, List<String> problems) {}

    /** Returns an example of {@code declaration}. */
    public static Result of(ElementDecl declaration, SchemaSet schemas, Wish wish) {
        ExampleMessage example = new ExampleMessage(schemas, wish);
        Written written = example.inPlaceOf(declaration, "", declaration.name().local(), 1)
                .get(0);
        Node root = example.element(written, "", declaration.name().local());
        if (example.refersToId && example.ids == 0) {
            example.problems.add("a field must refer to an ID, and nothing in this message carries one");
        }
        return new Result(wish.encoded() ? SoapEncoding.marked(root) : root, List.copyOf(example.problems));
    }

    /** One element to write: its declaration after substitution, and the step that names it. */
    private record Written(ElementDecl declaration, Step step) {}

    /** Returns what to write for a declared element: as often as it must be there or was picked. */
    private List<Written> inPlaceOf(ElementDecl declared, String parent, String label, int times) {
        TreeMap<Integer, Written> all = new TreeMap<>();
        for (Step step : wish.picks().below(parent)) {
            boolean itself = step.name().equals(declared.name());
            boolean other = !itself && schemas.substitutes(declared.name()).contains(step.name());
            if (!step.attribute() && (itself || other)) {
                ElementDecl written = itself ? declared : schemas.element(step.name());
                Written before = all.get(step.occurrence());
                if (before == null || before.step().type() == null && before.declaration() == declared) {
                    all.put(step.occurrence(), new Written(written, step));
                }
            }
        }
        for (int n = 1; n <= times; n++) {
            ElementDecl written = declared;
            if (declared.isAbstract() && !all.containsKey(n)) {
                written = schemas.substitutes(declared.name()).stream()
                        .map(schemas::element)
                        .filter(e -> !isOpen(e))
                        .findFirst()
                        .orElse(null);
                if (written == null) {
                    problems.add(label + " is abstract and nothing can stand for it");
                    written = declared;
                }
            }
            all.putIfAbsent(n, new Written(written, new Step(written.name(), false, n, null)));
        }
        return List.copyOf(all.values());
    }

    private Node element(Written written, String parent, String label) {
        nodes++;
        ElementDecl declaration = written.declaration();
        String path = parent + written.step();
        Node.Builder node = Node.build(declaration.name());
        TypeUse use = written.step().type() == null
                ? declaration.type()
                : TypeUse.named(written.step().type());
        Type type = schemas.type(use);
        boolean tell = written.step().type() != null
                && !written.step().type().equals(declaration.type().name());
        if (type instanceof ComplexType complex && complex.isAbstract() && complex.name() != null) {
            Name concrete = schemas.derivedTypes(complex.name()).stream()
                    .filter(name -> !open.contains(schemas.type(TypeUse.named(name))))
                    .findFirst()
                    .orElse(null);
            if (concrete == null) {
                problems.add(
                        label + " has the abstract type " + complex.name().local() + " and no type derives from it");
            } else {
                use = TypeUse.named(concrete);
                type = schemas.type(use);
                tell = true;
            }
        }
        if (tell || wish.encoded() && use.name() != null && !schemas.isAny(use)) {
            node.type(use.name());
        }
        ValueRule rule = schemas.rule(use);
        if (rule != null) {
            String value = value(rule, declaration.fixedValue(), declaration.defaultValue(), label);
            node.text(value == null ? "" : value);
            if (value == null) {
                problems.add(label + " can hold no value in a SOAP message: it needs a DTD");
            }
        }
        if (type instanceof ComplexType complex) {
            open.add(type);
            attributes(complex, node, label);
            for (Particle particle : schemas.content(complex)) {
                write(particle, node, path, label);
            }
            open.remove(open.size() - 1);
            Node made = node.done();
            if (complex.arrayOf() != null && wish.encoded()) {
                node.attribute(
                        new Name(SoapEncoding.NAMESPACE, "arrayType"),
                        complex.arrayOf() + "[" + made.children().size() + "]");
            }
        }
        return node.done();
    }

    private void attributes(ComplexType complex, Node.Builder node, String label) {
        for (AttributeUse use : schemas.attributes(complex)) {
            if (use.required() || wish.complete()) {
                String at = label + "/@" + use.name().local();
                String value = value(schemas.rule(use.type()), use.fixedValue(), use.defaultValue(), at);
                if (value != null) {
                    node.attribute(use.name(), value);
                } else if (use.required()) {
                    problems.add(at + " can hold no value in a SOAP message: it needs a DTD");
                }
            }
        }
    }

    /** Returns a value; null where only a document with a DTD could have one. */
    private String value(ValueRule rule, String fixed, String otherwise, String label) {
        if (fixed != null) {
            return fixed;
        }
        if (rule != null) {
            switch (rule.builtIn().name()) {
                case "ENTITY", "ENTITIES", "NOTATION" -> {
                    return null;
                }
                case "ID" -> {
                    return "id" + ++ids;
                }
                case "IDREF", "IDREFS" -> refersToId = true;
                default -> {}
            }
        }
        String made = rule == null ? "text" : rule.example();
        if (made == null) {
            if (otherwise != null && rule.problem(otherwise) == null) {
                return otherwise;
            }
            problems.add("no valid value could be made for " + label + " (" + rule.label() + ", "
                    + String.join(", ", rule.facetWords()) + ")");
            return "";
        }
        return made;
    }

    private void write(Particle particle, Node.Builder into, String path, String label) {
        int times = particle.min();
        boolean more = wish.complete() && nodes < MOST_NODES && !recursive(particle);
        if (times == 0 && (more || picked(particle, path))) {
            times = 1;
        }
        times = Math.min(times, 1000);
        if (times > 0 && cut()) {
            return;
        }
        if (particle instanceof Particle.Element element) {
            elements(element.declaration(), into, path, label, times);
        } else if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            if (found != null) {
                elements(found, into, path, label, times);
            } else if (times > 0) {
                problems.add(label + "/" + ref.name().local() + " refers to an element that is not defined");
            }
        } else {
            for (int i = 0; i < times; i++) {
                once(particle, into, path, label);
            }
        }
    }

    private void elements(ElementDecl declared, Node.Builder into, String path, String label, int times) {
        String own = label + "/" + declared.name().local();
        if (times > 0 && endless(own)) {
            return;
        }
        for (Written written : inPlaceOf(declared, path, own, times)) {
            into.add(element(written, path, own));
        }
    }

    /** Tells whether the example is as long as one may be: what is left out then is said once. */
    private boolean cut() {
        boolean over = nodes > MOST_NODES * 4 || ++steps > MOST_STEPS;
        if (over && !cut) {
            cut = true;
            problems.add("the example is cut: the whole message would have more than " + MOST_NODES * 4
                    + " elements, or parts that only lead on to others");
        }
        return over;
    }

    private boolean endless(String label) {
        if (open.size() + groups > DEEPEST * 4) {
            if (problems.isEmpty()) {
                String[] steps = label.split("/", 5);
                String start = String.join("/", List.of(steps).subList(0, Math.min(4, steps.length)));
                problems.add(start + "/… requires itself without end: no message can satisfy it");
            }
            return true;
        }
        return false;
    }

    /** Tells whether anything inside a particle was picked below a path. */
    private boolean picked(Particle particle, String path) {
        if (wish.picks().below(path).isEmpty()) {
            return false;
        }
        if (particle instanceof Particle.Element element) {
            return uses(element.declaration().name(), path);
        }
        if (particle instanceof Particle.ElementRef ref) {
            return uses(ref.name(), path);
        }
        if (particle instanceof Particle.Group group) {
            return group.parts().stream().anyMatch(part -> picked(part, path));
        }
        return particle instanceof Particle.GroupRef ref
                && schemas.group(ref.name()) != null
                && open.size() < DEEPEST
                && picked(schemas.group(ref.name()), path);
    }

    private boolean uses(Name name, String path) {
        return wish.picks().below(path).stream()
                .anyMatch(s -> !s.attribute()
                        && (s.name().equals(name) || schemas.substitutes(name).contains(s.name())));
    }

    private boolean recursive(Particle particle) {
        return recursive(particle, 0);
    }

    private boolean recursive(Particle particle, int depth) {
        if (depth > DEEPEST * 4 || ++steps > MOST_STEPS) {
            return true;
        }
        if (particle instanceof Particle.Element element) {
            return isOpen(element.declaration());
        }
        if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            return found == null || isOpen(found);
        }
        if (particle instanceof Particle.Group group) {
            boolean choice = group.kind() == Particle.Kind.CHOICE;
            return choice
                    ? !group.parts().isEmpty() && group.parts().stream().allMatch(part -> recursive(part, depth + 1))
                    : group.parts().stream().anyMatch(part -> part.min() > 0 && recursive(part, depth + 1));
        }
        if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            return group == null || open.size() > DEEPEST || group.min() > 0 && recursive(group, depth + 1);
        }
        return true;
    }

    private boolean isOpen(ElementDecl declaration) {
        Type type = schemas.type(declaration.type());
        return type != null && open.contains(type) || open.size() > DEEPEST;
    }

    private void once(Particle particle, Node.Builder into, String path, String label) {
        if (endless(label)) {
            return;
        }
        if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            if (group == null) {
                problems.add(label + " refers to the group " + ref.name().local() + " that is not defined");
            } else {
                groups++;
                write(group, into, path, label);
                groups--;
            }
        } else if (particle instanceof Particle.Any any) {
            any(any, into, label);
        } else if (particle instanceof Particle.Group group && group.kind() == Particle.Kind.CHOICE) {
            if (!group.parts().isEmpty()) {
                Particle chosen = branch(group, path);
                if (chosen.min() > 0 || wish.complete() || picked(chosen, path)) {
                    write(chosen, into, path, label);
                }
            }
        } else if (particle instanceof Particle.Group group) {
            group.parts().forEach(part -> write(part, into, path, label));
        }
    }

    private Particle branch(Particle.Group choice, String path) {
        return choice.parts().stream()
                .filter(part -> picked(part, path))
                .findFirst()
                .orElseGet(() -> choice.parts().stream()
                        .filter(part -> !recursive(part))
                        .findFirst()
                        .orElse(choice.parts().get(0)));
    }

    private void any(Particle.Any any, Node.Builder into, String label) {
        if (any.min() == 0) {
            return;
        }
        String[] allowed = any.namespaces().strip().split("\\s+");
        if (!any.strict()) {
            String namespace =
                    switch (allowed[0]) {
                        case "##any", "##other" -> "urn:example:any";
                        case "##local" -> "";
                        case "##targetNamespace" -> any.targetNamespace();
                        default -> allowed[0];
                    };
            into.add(Node.leaf(new Name(namespace, "any"), ""));
            return;
        }
        for (ElementDecl each : schemas.elements()) {
            if (!each.isAbstract() && any.allows(each.name().namespace()) && !isOpen(each)) {
                into.add(element(new Written(each, new Step(each.name(), false, 1, null)), "", label));
                return;
            }
        }
        problems.add(label + " wants an element of any kind, and no schema defines one that may stand there");
    }
}
