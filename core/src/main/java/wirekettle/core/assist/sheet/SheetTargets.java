package wirekettle.core.assist.sheet;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.Name;

/** The fields of a message by their names: {@code BookTransport/crate#2/paper~Permit/@no}. */
final class SheetTargets implements Targets {
    static final int MOST_FIELDS = 5_000;
    static final int DEEPEST = 20;

    /** A step as it is written: attribute, name, which of several, the type picked. */
    private static final Pattern STEP = Pattern.compile("(@?)([^#~]+)(?:#(\\d{1,6}))?(?:~(.+))?");

    private final List<SheetField> roots;
    private final Map<String, SheetField> byNames = new LinkedHashMap<>();

    SheetTargets(List<SheetField> roots) {
        this.roots = roots;
        roots.forEach(root -> index(root, "", 0));
    }

    private void index(SheetField field, String above, int depth) {
        if (byNames.size() >= MOST_FIELDS || depth > DEEPEST || field.kind() == SheetField.Kind.ANY) {
            return;
        }
        boolean attribute = field.kind() == SheetField.Kind.ATTRIBUTE;
        String names = above
                + (above.isEmpty() ? "" : "/")
                + (attribute ? "@" : "")
                + field.name().local();
        byNames.putIfAbsent(names.toLowerCase(Locale.ROOT), field);
        if (!field.recursive()) {
            field.children().forEach(child -> index(child, names, depth + 1));
        }
    }

    /** Returns a target as it is written in a sheet. */
    static String names(String path) {
        StringBuilder names = new StringBuilder();
        try {
            for (SheetPath.Step step : SheetPath.parse(path).steps()) {
                names.append(names.length() == 0 ? "" : "/").append(step.attribute() ? "@" : "");
                names.append(step.name().local());
                names.append(step.occurrence() > 1 ? "#" + step.occurrence() : "");
                names.append(step.type() == null ? "" : "~" + step.type().local());
            }
        } catch (IllegalArgumentException e) {
            return path;
        }
        return names.toString();
    }

    /** The field of some names is found by the last of them alone where no other field has it. */
    @Override
    public Target find(String target) {
        SheetField field = field(target);
        return field == null
                ? null
                : new Target(
                        field.path(), field.rule() == null && !field.children().isEmpty() && field.max() == 1);
    }

    @Override
    public String unknown(String target) {
        return "“" + target + "” is no field of this message";
    }

    private SheetField field(String target) {
        String names = target.replaceAll("\\s*[./>]\\s*", "/").replaceAll("^/", "");
        String lower = names.toLowerCase(Locale.ROOT);
        SheetField exact = byNames.get(lower);
        if (exact == null) {
            exact = walked(names);
        }
        return exact == null ? byEnd(lower) : exact;
    }

    private SheetField byEnd(String names) {
        SheetField best = null;
        int least = Integer.MAX_VALUE;
        boolean several = false;
        for (Map.Entry<String, SheetField> each : byNames.entrySet()) {
            int depth = each.getKey().split("/").length;
            if (each.getKey().endsWith("/" + names) && depth <= least) {
                several = depth == least;
                least = depth;
                best = each.getValue();
            }
        }
        return several ? null : best;
    }

    /** Goes down step by step, with what is picked on the way. */
    private SheetField walked(String names) {
        SheetField at = null;
        List<SheetField> below = roots;
        for (String written : names.split("/")) {
            Matcher step = STEP.matcher(written);
            at = step.matches() ? step(below, step) : null;
            if (at == null) {
                return null;
            }
            below = at.children();
        }
        return at;
    }

    private static SheetField step(List<SheetField> fields, Matcher step) {
        boolean attribute = !step.group(1).isEmpty();
        int occurrence = step.group(3) == null ? 1 : Integer.parseInt(step.group(3));
        for (SheetField field : fields) {
            if ((field.kind() == SheetField.Kind.ATTRIBUTE) != attribute || field.kind() == SheetField.Kind.ANY) {
                continue;
            }
            Name name = named(step.group(2), field);
            if (name != null && attribute) {
                return field;
            }
            Name type = step.group(4) == null ? null : type(step.group(4), field);
            if (name != null && (step.group(4) == null || type != null)) {
                return field.as(new SheetPath.Step(name, false, occurrence, type));
            }
        }
        return null;
    }

    private static Name named(String local, SheetField field) {
        if (field.name().local().equalsIgnoreCase(local)) {
            return field.name();
        }
        return field.kind() != SheetField.Kind.ELEMENT
                ? null
                : field.elementChoices().stream()
                        .filter(n -> n.local().equalsIgnoreCase(local))
                        .findFirst()
                        .orElse(null);
    }

    private static Name type(String local, SheetField field) {
        return field.typeChoices().stream()
                .filter(n -> n.local().equalsIgnoreCase(local))
                .findFirst()
                .orElse(null);
    }
}
