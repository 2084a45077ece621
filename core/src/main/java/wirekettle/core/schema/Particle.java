package wirekettle.core.schema;

import java.util.List;
import wirekettle.core.value.Name;

/** A part of a content model with its occurrence; {@code max} is -1 for unbounded (XML Schema 1.0 part 1, 3.9). */
public sealed interface Particle {
    /** Returns how often it must occur at least. */
    int min();

    /** Returns how often it may occur at most, -1 for unbounded. */
    int max();

    /** A local element declaration. */
    record Element(ElementDecl declaration, int min, int max) implements Particle {}

    /** A reference to a global element. */
    record ElementRef(Name name, int min, int max) implements Particle {}

    /** A sequence, choice or all group. */
    record Group(Kind kind, List<Particle> parts, int min, int max) implements Particle {}

    /** A reference to a named group. */
    record GroupRef(Name name, int min, int max) implements Particle {}

    /** A wildcard (3.10) as written in a schema of {@code targetNamespace}. */
    record Any(String namespaces, String targetNamespace, boolean strict, int min, int max) implements Particle {
        /** Tells whether an element of a namespace may stand there. */
        boolean allows(String namespace) {
            for (String each : namespaces.strip().split("\\s+")) {
                boolean fits =
                        switch (each) {
                            case "##any" -> true;
                            case "##other" -> !namespace.isEmpty() && !namespace.equals(targetNamespace);
                            case "##local" -> namespace.isEmpty();
                            case "##targetNamespace" -> namespace.equals(targetNamespace);
                            default -> namespace.equals(each);
                        };
                if (fits) {
                    return true;
                }
            }
            return false;
        }
    }

    /** How the parts of a group follow each other. */
    enum Kind {
        /** One after the other. */
        SEQUENCE,
        /** Exactly one of them. */
        CHOICE,
        /** Each at most once, in any order. */
        ALL
    }
}
