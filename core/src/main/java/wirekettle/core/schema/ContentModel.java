package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import wirekettle.core.value.Name;

/**
 * Which elements may follow each other below an element (XML Schema 1.0 part 1, 3.8): for content that occurrences and
 * single choices alone do not describe, as a group that is there whole or not at all. Immutable.
 */
public final class ContentModel {
    private static final int DEEPEST = 40;
    /** Counts beyond this are held against the schema elsewhere, name by name. */
    private static final int MOST_COUNTED = 1_000;

    private static final int MOST_WORDS = 200;

    /** Stands for an element no particle names: only a wildcard takes it. */
    private static final char OTHER = '\u4DFF';

    private static final char FIRST = '\u4E00';

    private final Map<Name, Character> signs = new HashMap<>();
    private final SchemaSet schemas;
    private final String words;
    private final Pattern pattern;

    private ContentModel(List<Particle> parts, SchemaSet schemas) {
        this.schemas = schemas;
        StringBuilder all = new StringBuilder();
        List<String> told = new ArrayList<>();
        for (Particle part : parts) {
            all.append(expression(part, 0));
            told.add(words(part, 0));
        }
        this.pattern = Pattern.compile(all.toString());
        String model = String.join(", ", told);
        this.words = model.length() > MOST_WORDS ? model.substring(0, MOST_WORDS) + " …" : model;
    }

    /** Returns what may stand below a field, null where its fields' own occurrences and choices say all of it. */
    public static ContentModel of(SheetField field) {
        boolean elements =
                field.schemas().type(field.type()) instanceof ComplexType complex && !complex.simpleContent();
        return elements
                ? field.schemas()
                        .model((ComplexType) field.schemas().type(field.type()))
                        .orElse(null)
                : null;
    }

    static ContentModel of(List<Particle> parts, SchemaSet schemas) {
        return parts.stream().allMatch(part -> plain(part, schemas, 0)) ? null : new ContentModel(parts, schemas);
    }

    private static boolean plain(Particle particle, SchemaSet schemas, int depth) {
        if (depth > DEEPEST) {
            return true;
        }
        if (particle instanceof Particle.Group group) {
            boolean once = group.min() == 1 && group.max() == 1;
            boolean picks =
                    group.kind() == Particle.Kind.CHOICE && group.parts().size() > 1;
            return picks
                    ? group.parts().stream().allMatch(ContentModel::isElement)
                    : once && group.parts().stream().allMatch(part -> plain(part, schemas, depth + 1));
        }
        if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            return group == null || ref.min() == 1 && ref.max() == 1 && plain(group, schemas, depth + 1);
        }
        return true;
    }

    private static boolean isElement(Particle particle) {
        return particle instanceof Particle.Element || particle instanceof Particle.ElementRef;
    }

    private char sign(Name name) {
        return signs.computeIfAbsent(name, n -> (char) (FIRST + signs.size()));
    }

    private String expression(Particle particle, int depth) {
        return "(?:" + once(particle, depth) + ")" + times(particle);
    }

    private String once(Particle particle, int depth) {
        if (depth > DEEPEST) {
            return ".*";
        }
        if (particle instanceof Particle.Element element) {
            return String.valueOf(sign(element.declaration().name()));
        }
        if (particle instanceof Particle.ElementRef ref) {
            return String.valueOf(sign(ref.name()));
        }
        if (particle instanceof Particle.GroupRef ref) {
            Particle group = schemas.group(ref.name());
            return group == null ? ".*" : expression(group, depth + 1);
        }
        if (!(particle instanceof Particle.Group group)) {
            return ".";
        }
        List<String> parts =
                group.parts().stream().map(part -> expression(part, depth + 1)).toList();
        return switch (group.kind()) {
            case SEQUENCE -> String.join("", parts);
            case CHOICE -> parts.isEmpty() ? "" : String.join("|", parts);
            case ALL -> all(group);
        };
    }

    /** Each at most once, in any order (3.8.1): said for each of them over all that follows. */
    private String all(Particle.Group group) {
        StringBuilder each = new StringBuilder();
        StringBuilder any = new StringBuilder("[");
        for (Particle part : group.parts()) {
            String name = once(part, DEEPEST);
            each.append("(?=[^").append(name).append("]*").append(name).append(part.min() > 0 ? "" : "?");
            each.append("[^").append(name).append("]*$)");
            any.append(name);
        }
        return group.parts().isEmpty() ? "" : each + any.append("]*").toString();
    }

    private static String times(Particle particle) {
        int most = particle.max() > MOST_COUNTED ? -1 : particle.max();
        int least = Math.min(particle.min(), MOST_COUNTED);
        return least == 1 && most == 1 ? "" : "{" + least + "," + (most < 0 ? "" : most) + "}";
    }

    private String words(Particle particle, int depth) {
        if (depth > 4) {
            return "…";
        }
        String text = "…";
        if (particle instanceof Particle.Element element) {
            text = element.declaration().name().local();
        } else if (particle instanceof Particle.ElementRef ref) {
            text = ref.name().local();
        } else if (particle instanceof Particle.Any) {
            text = "any element";
        } else if (particle instanceof Particle.GroupRef ref && schemas.group(ref.name()) != null) {
            text = words(schemas.group(ref.name()), depth + 1);
        } else if (particle instanceof Particle.Group group) {
            List<String> parts =
                    group.parts().stream().map(p -> words(p, depth + 1)).toList();
            String between = group.kind() == Particle.Kind.CHOICE ? " or " : " and ";
            text = parts.size() == 1 ? parts.get(0) : "(" + String.join(between, parts) + ")";
        }
        boolean several = particle.max() != 1;
        return text + (particle.min() == 0 ? several ? "*" : "?" : several ? "+" : "");
    }

    /**
     * Returns what is wrong with elements that follow each other, null when they may.
     *
     * @param names their names; a substitute's is that of the element it stands for
     */
    public String problem(List<Name> names) {
        StringBuilder text = new StringBuilder();
        for (Name name : names) {
            Character sign = signs.get(name);
            text.append(sign == null ? OTHER : sign.charValue());
        }
        try {
            return pattern.matcher(text).matches() ? null : "its fields have to stand together as " + words;
        } catch (StackOverflowError e) {
            // many thousand repeated groups: their fields are still counted one by one
            return null;
        }
    }
}
