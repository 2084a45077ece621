package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Builds a valid example of a message: only what is required, or every optional part once. */
public final class ExampleMessage {
    private static final int MOST_NODES = 20_000;

    private final SchemaSet schemas;
    private final boolean complete;
    private final List<String> problems = new ArrayList<>();
    private final List<Object> open = new ArrayList<>();
    private int nodes;

    private ExampleMessage(SchemaSet schemas, boolean complete) {
        this.schemas = schemas;
        this.complete = complete;
    }

    /**
     * An example and why it may not be valid.
     *
     * @param root the message
     * @param problems reasons why no valid value could be made, empty when all went well
     */
    public record Result(Node root, List<String> problems) {}

    /** Returns an example of {@code declaration}. */
    public static Result of(ElementDecl declaration, SchemaSet schemas, boolean complete) {
        ExampleMessage example = new ExampleMessage(schemas, complete);
        Node root = example.element(declaration, declaration.name().local());
        return new Result(root, List.copyOf(example.problems));
    }

    private Node element(ElementDecl declaration, String path) {
        nodes++;
        ElementDecl written = declaration;
        if (declaration.isAbstract()) {
            List<Name> substitutes = schemas.substitutes(declaration.name());
            if (substitutes.isEmpty()) {
                problems.add(path + " is abstract and nothing can stand for it");
            } else {
                written = schemas.element(substitutes.get(0));
            }
        }
        Node.Builder node = Node.build(written.name());
        Type type = schemas.type(written.type());
        if (type instanceof ComplexType complex && complex.isAbstract() && complex.name() != null) {
            List<Name> derived = schemas.derivedTypes(complex.name());
            if (derived.isEmpty()) {
                problems.add(
                        path + " has the abstract type " + complex.name().local() + " and no type derives from it");
            } else {
                node.type(derived.get(0));
                type = schemas.type(TypeUse.named(derived.get(0)));
            }
        }
        ValueRule rule = schemas.rule(written.type());
        if (rule != null) {
            node.text(value(rule, written.fixedValue(), written.defaultValue(), path));
        }
        if (type instanceof ComplexType complex) {
            open.add(type);
            for (AttributeUse use : schemas.attributes(complex)) {
                if (use.required() || complete) {
                    node.attribute(
                            use.name(),
                            value(
                                    schemas.rule(use.type()),
                                    use.fixedValue(),
                                    use.defaultValue(),
                                    path + "/@" + use.name().local()));
                }
            }
            for (Particle particle : schemas.content(complex)) {
                write(particle, node, path);
            }
            open.remove(open.size() - 1);
        }
        return node.done();
    }

    private String value(ValueRule rule, String fixed, String otherwise, String path) {
        if (fixed != null) {
            return fixed;
        }
        String made = rule == null ? "text" : rule.example();
        if (made == null) {
            if (otherwise != null && rule.problem(otherwise) == null) {
                return otherwise;
            }
            problems.add("no valid value could be made for " + path + " (" + rule.label() + ", "
                    + String.join(", ", rule.facetWords()) + ")");
            return "";
        }
        return made;
    }

    private void write(Particle particle, Node.Builder into, String path) {
        int times = particle.min();
        if (times == 0 && complete && nodes < MOST_NODES && !recursive(particle)) {
            times = 1;
        }
        for (int i = 0; i < Math.min(times, 1000); i++) {
            once(particle, into, path);
        }
    }

    private boolean recursive(Particle particle) {
        if (particle instanceof Particle.Element element) {
            return isOpen(element.declaration());
        }
        if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            return found == null || isOpen(found);
        }
        if (particle instanceof Particle.Group group) {
            return group.parts().stream().anyMatch(part -> part.min() > 0 && recursive(part));
        }
        if (particle instanceof Particle.GroupRef ref) {
            return schemas.group(ref.name()) == null || open.size() > 30;
        }
        return true;
    }

    private boolean isOpen(ElementDecl declaration) {
        Type type = schemas.type(declaration.type());
        return open.contains(type) || open.size() > 30;
    }

    private void once(Particle particle, Node.Builder into, String path) {
        if (open.size() > 120) {
            if (problems.isEmpty()) {
                problems.add(path + " requires itself without end");
            }
            return;
        }
        if (particle instanceof Particle.Element element) {
            into.add(element(
                    element.declaration(),
                    path + "/" + element.declaration().name().local()));
        } else if (particle instanceof Particle.ElementRef ref) {
            ElementDecl found = schemas.element(ref.name());
            if (found == null) {
                problems.add(path + "/" + ref.name().local() + " refers to an element that is not defined");
            } else {
                into.add(element(found, path + "/" + ref.name().local()));
            }
        } else if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            if (group == null) {
                problems.add(path + " refers to the group " + ref.name().local() + " that is not defined");
            } else {
                write(group, into, path);
            }
        } else if (particle instanceof Particle.Any any) {
            if (any.min() > 0) {
                problems.add(path + " wants an element of your choice (any)");
            }
        } else if (particle instanceof Particle.Group group) {
            if (group.kind() != Particle.Kind.CHOICE) {
                group.parts().forEach(part -> write(part, into, path));
            } else if (!group.parts().isEmpty()) {
                Particle picked = group.parts().stream()
                        .filter(part -> !recursive(part))
                        .findFirst()
                        .orElse(group.parts().get(0));
                if (picked.min() > 0 || complete) {
                    write(picked, into, path);
                }
            }
        }
    }
}
