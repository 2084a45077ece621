package wirekettle.server.contracts;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;

/** The part of a message sheet that is in view: what is expanded, searched and picked decides which rows there are. */
final class SheetView {
    private static final int MOST_FIELDS = 100_000;
    private static final int COMFORTABLE = 400;

    /**
     * What is wanted of a sheet.
     *
     * @param search a text in name, type or documentation
     * @param requiredOnly only fields that are there in every message
     * @param level how many levels are expanded, null for as many as can be taken in
     * @param open paths expanded by hand
     * @param closed paths collapsed by hand
     * @param picks paths of what was picked
     * @param documents the documents inside fields of the message
     * @param from the first row wanted, from 0
     * @param size how many rows, at most 4,000
     */
    @Schema(name = "SheetQuery")
    public record Query(
            String service,
            String port,
            String operation,
            String message,
            String search,
            Boolean requiredOnly,
            Integer level,
            List<String> open,
            List<String> closed,
            List<String> picks,
            List<EmbeddedDocument> documents,
            Integer from,
            Integer size) {}

    /**
     * Rows in view.
     *
     * @param rows the rows asked for
     * @param total how many rows there are in this view
     * @param fields how many fields the whole message has, recursion not counted
     * @param required how many of them are there in every message
     * @param deepest how many levels there are
     * @param level how many levels are expanded
     * @param more whether the message is so large that it was not looked through to its end
     */
    @Schema(
            name = "SheetPage",
            requiredProperties = {"rows", "total", "fields", "required", "deepest", "level", "more"})
    public record Page(
            List<SheetRow> rows, int total, int fields, int required, int deepest, int level, boolean more) {}

    private record Shown(SheetField field, int depth, boolean expanded) {}

    private final Query query;
    private final Picks picks;
    private final Set<String> open;
    private final Set<String> closed;
    private final List<Shown> shown = new ArrayList<>();
    private final Map<Integer, Integer> perLevel = new LinkedHashMap<>();
    private int fields;
    private int required;
    private int level;

    private SheetView(Query query) {
        this.query = query;
        this.picks = Picks.of(query.picks() == null ? List.of() : query.picks());
        this.open = new HashSet<>(query.open() == null ? List.of() : query.open());
        this.closed = new HashSet<>(query.closed() == null ? List.of() : query.closed());
    }

    static Page of(List<SheetField> roots, Query query) {
        SheetView view = new SheetView(query);
        List<SheetField> picked = new ArrayList<>();
        roots.forEach(root -> picked.addAll(view.picks.inPlaceOf(root)));
        picked.forEach(root -> view.count(root, 0, true));
        view.level = query.level() == null ? view.comfortable() : query.level();
        String wanted = query.search() == null ? "" : query.search().strip().toLowerCase(Locale.ROOT);
        view.fields = 0;
        for (SheetField root : picked) {
            if (wanted.isEmpty()) {
                view.show(root, 0);
            } else {
                view.find(root, 0, wanted);
            }
        }
        int from = Math.max(0, Math.min(view.shown.size(), query.from() == null ? 0 : query.from()));
        int size = query.size() == null ? 200 : Math.max(1, Math.min(4_000, query.size()));
        List<SheetRow> rows = view.shown.subList(from, Math.min(view.shown.size(), from + size)).stream()
                .map(s -> SheetRow.of(s.field(), s.depth(), s.expanded()))
                .toList();
        int all = view.perLevel.values().stream().mapToInt(Integer::intValue).sum();
        return new Page(
                rows,
                view.shown.size(),
                all,
                view.required,
                view.perLevel.size(),
                view.level,
                all >= MOST_FIELDS || view.fields >= MOST_FIELDS);
    }

    private List<SheetField> children(SheetField field) {
        List<SheetField> all = new ArrayList<>();
        field.children().forEach(child -> all.addAll(picks.inPlaceOf(child)));
        return all;
    }

    private void count(SheetField field, int depth, boolean always) {
        if (++fields > MOST_FIELDS) {
            return;
        }
        perLevel.merge(depth, 1, Integer::sum);
        boolean needed = always && (depth == 0 || field.required());
        required += needed ? 1 : 0;
        if (!field.recursive()) {
            children(field).forEach(child -> count(child, depth + 1, needed));
        }
    }

    /** Returns how many levels can be shown at once without drowning the reader. */
    private int comfortable() {
        int rows = 0;
        int levels = 0;
        for (int count : perLevel.values()) {
            rows += count;
            if (rows > Math.max(COMFORTABLE, query.size() == null ? 0 : query.size()) && levels > 1) {
                break;
            }
            levels++;
        }
        return Math.max(1, levels - 1);
    }

    private void show(SheetField field, int depth) {
        if (shown.size() >= MOST_FIELDS) {
            return;
        }
        boolean onlyRequired = Boolean.TRUE.equals(query.requiredOnly());
        boolean leaf = field.children().isEmpty();
        boolean expanded = !leaf
                && !closed.contains(field.path())
                && (open.contains(field.path()) || !field.recursive() && (onlyRequired || depth < level));
        shown.add(new Shown(field, depth, expanded));
        if (expanded) {
            for (SheetField child : children(field)) {
                if (!onlyRequired || child.required() || child.occurrence() > 1) {
                    show(child, depth + 1);
                }
            }
        }
    }

    /** Shows what fits with everything above it; returns whether anything below did. */
    private boolean find(SheetField field, int depth, String wanted) {
        if (++fields > MOST_FIELDS) {
            return false;
        }
        boolean onlyRequired = Boolean.TRUE.equals(query.requiredOnly());
        int at = shown.size();
        boolean fits = (field.name().local() + " " + field.typeLabel() + " " + field.documentation())
                .toLowerCase(Locale.ROOT)
                .contains(wanted);
        shown.add(null);
        boolean below = false;
        if (!field.recursive() || open.contains(field.path())) {
            for (SheetField child : children(field)) {
                if (!onlyRequired || child.required()) {
                    below |= find(child, depth + 1, wanted);
                }
            }
        }
        if (!fits && !below) {
            shown.remove(at);
            return false;
        }
        shown.set(at, new Shown(field, depth, below));
        return true;
    }
}
