package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.SheetPath.Step;
import wirekettle.core.value.Name;

/**
 * What was picked in a message: derived types, substitution elements, branches of choices, further occurrences. It is
 * read from the paths that are in use, so a fill below a picked field is a pick of its own.
 */
public final class Picks {
    /** Nothing picked. */
    public static final Picks NONE = new Picks(List.of());

    private final Map<String, Set<Step>> below = new HashMap<>();

    private Picks(Collection<String> paths) {
        for (String text : paths) {
            StringBuilder parent = new StringBuilder();
            for (Step step : SheetPath.parse(text).steps()) {
                below.computeIfAbsent(parent.toString(), k -> new LinkedHashSet<>())
                        .add(step);
                parent.append(step);
            }
        }
    }

    /** Returns the picks that follow from paths; texts that are no path are passed over. */
    public static Picks of(Collection<String> paths) {
        List<String> sound = new ArrayList<>();
        for (String path : paths) {
            try {
                SheetPath.parse(path);
                sound.add(path);
            } catch (IllegalArgumentException e) {
                continue; // a stale target is said where it is used
            }
        }
        return sound.isEmpty() ? new Picks(List.of()) : new Picks(sound);
    }

    /** Tells whether anything at or below a path is in use. */
    public boolean uses(String parent, Name name) {
        return below.getOrDefault(parent, Set.of()).stream()
                .anyMatch(s -> s.name().equals(name));
    }

    /** Returns the steps in use directly below a path. */
    Set<Step> below(String parent) {
        return below.getOrDefault(parent, Set.of());
    }

    /**
     * Returns the fields to show or write in the place of a declared child: itself, or what was picked for it, for each
     * occurrence in order. Several picked for one occurrence are alternatives.
     */
    public List<SheetField> inPlaceOf(SheetField child) {
        if (child.kind() != SheetField.Kind.ELEMENT) {
            return List.of(child);
        }
        String parent = child.parent() == null ? "" : child.parent().path();
        Set<Step> steps = below.getOrDefault(parent, Set.of());
        if (steps.isEmpty()) {
            return List.of(child);
        }
        Map<Integer, Map<String, SheetField>> chosen = new java.util.TreeMap<>();
        for (Step step : steps) {
            SheetField field = step.attribute() ? null : child.as(step);
            if (field != null) {
                chosen.computeIfAbsent(step.occurrence(), k -> new java.util.LinkedHashMap<>())
                        .put(field.path(), field);
            }
        }
        if (!chosen.containsKey(1)) {
            chosen.put(1, Map.of(child.path(), child));
        }
        return chosen.values().stream().flatMap(m -> m.values().stream()).toList();
    }
}
