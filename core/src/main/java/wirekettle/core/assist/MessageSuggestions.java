package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FillFailure;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.RepeatedNodes;
import wirekettle.core.schema.Picks;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.Node;

/**
 * Proposes fills for a whole message: wires for what stands once, and for lists a repeat together with the wires inside
 * it, chosen by how well the fields of the one fit those of the other.
 */
public final class MessageSuggestions {
    private static final int MOST_WANTED = 600;
    private static final int MOST_LISTS = 100;
    private static final int MOST_NODES = 200;
    private static final int DEEPEST = 10;

    /**
     * A proposal.
     *
     * @param fill the fill, without an id
     * @param score between 0 and 1; from {@link Suggester#ACCEPT_BAR} on it can be accepted with others
     * @param reason why, in words
     * @param needs the target of the repeat that has to be accepted with it, or null
     */
    public record Proposed(Fill fill, double score, String reason, String needs) {}

    /** A list of the message nothing fills yet, and the names above it. */
    private record ListField(SheetField field, String above) {}

    /** What is wanted at one level of the message, and what it can be had from; scopes are known where it is filled. */
    private static final class Level {
        private final SourceLevel sources;
        private final List<Scope> scopes;
        private final String needs;
        private final List<Suggester.Wanted> wanted = new ArrayList<>();
        private final List<ListField> lists = new ArrayList<>();

        Level(SourceLevel sources, List<Scope> scopes, String needs) {
            this.sources = sources;
            this.scopes = scopes;
            this.needs = needs;
        }
    }

    private final SuggestionSources from;
    private final MappingContext context;
    private final Map<String, Fill> byTarget = new HashMap<>();
    private final Set<String> used = new HashSet<>();
    private final SourceLevel.Reader reader;
    private final Picks picks;
    private final List<Proposed> proposed = new ArrayList<>();

    private MessageSuggestions(List<Fill> fills, SuggestionSources from, MappingContext context) {
        this.from = from;
        this.context = context;
        this.reader = new SourceLevel.Reader(from);
        for (Fill fill : fills) {
            byTarget.put(fill.target(), fill);
            used.add(fill.wire());
            used.add(fill.repeat() == null ? null : fill.repeat().from());
        }
        this.picks = Picks.of(byTarget.keySet());
    }

    /**
     * Returns proposals for what has no fill, the strongest first.
     *
     * @param sheets the message
     * @param fills what is filled already
     */
    public static List<Proposed> of(
            List<SheetField> sheets, List<Fill> fills, SuggestionSources from, MappingContext context) {
        MessageSuggestions work = new MessageSuggestions(fills, from, context);
        Level start = new Level(work.reader.start(), from.samples(), null);
        sheets.forEach(root -> work.walk(root, "", start, 0));
        work.proposed.addAll(work.finish(start));
        work.proposed.sort(Comparator.comparingDouble(Proposed::score).reversed());
        return work.proposed;
    }

    private void walk(SheetField field, String above, Level at, int depth) {
        Fill fill = byTarget.get(field.path());
        if (fill != null && fill.repeat() != null) {
            Level inside = inside(fill, at);
            below(field, above, inside, depth);
            proposed.addAll(finish(inside));
        } else if (fill != null && !fill.picks() && !fill.copies()) {
            below(field, above, at, depth); // its attributes may be open
        } else if (fill == null || fill.picks()) {
            boolean list = field.max() != 1 && depth > 0 && at.lists.size() < MOST_LISTS;
            if (list && fill == null && !filledBelow(field.path())) {
                at.lists.add(new ListField(field, above));
            } else {
                once(field, above, at, depth);
            }
        }
    }

    private boolean filledBelow(String path) {
        return byTarget.keySet().stream()
                .anyMatch(t -> t.length() > path.length()
                        && t.startsWith(path)
                        && "/~#".indexOf(t.charAt(path.length())) >= 0);
    }

    private void once(SheetField field, String above, Level at, int depth) {
        if (field.rule() != null && field.fixed() == null && at.wanted.size() < MOST_WANTED) {
            at.wanted.add(wanted(field, above));
        }
        below(field, above, at, depth);
    }

    private void below(SheetField field, String above, Level at, int depth) {
        if (!field.recursive() && depth < DEEPEST) {
            String names = above + " " + field.name().local();
            field.children().stream()
                    .flatMap(child -> picks.inPlaceOf(child).stream())
                    .forEach(child -> walk(child, names, at, depth + 1));
        }
    }

    private static Suggester.Wanted wanted(SheetField field, String above) {
        return new Suggester.Wanted(
                field.path(), field.name().local(), above, field.documentation(), field.rule(), field.required());
    }

    /** Returns the level inside a repeat that is filled, with the nodes of some samples. */
    private Level inside(Fill repeat, Level around) {
        List<Node> nodes = new ArrayList<>();
        List<Scope> scopes = new ArrayList<>();
        try {
            RepeatedNodes repeated = RepeatedNodes.of(repeat, context.expressions(), null);
            for (Scope outer : around.scopes) {
                for (Node node : scopes.size() < MOST_NODES ? repeated.nodes(outer) : List.<Node>of()) {
                    nodes.add(node);
                    scopes.add(repeated.scope(outer, node));
                }
            }
        } catch (ExpressionProblem | FillFailure e) {
            nodes.clear(); // a repeat that cannot work has nothing inside
        }
        return new Level(reader.inside(repeat, nodes), scopes, null);
    }

    /** A list of the message with the repeated nodes that could fill it. */
    private record Match(ListField list, SourceLevel nodes, List<Proposed> inside, double weight) {}

    private List<Proposed> finish(Level level) {
        List<Proposed> all = new ArrayList<>();
        Set<SourceLevel> taken = new HashSet<>();
        // a list that nothing fits is filled once, and may have lists inside it that something fits
        while (!level.lists.isEmpty()) {
            List<ListField> open = new ArrayList<>(level.lists);
            level.lists.clear();
            for (Match match : matches(open, level)) {
                if (open.contains(match.list()) && taken.add(match.nodes())) {
                    open.remove(match.list());
                    all.addAll(match.inside());
                }
            }
            open.forEach(list -> once(list.field(), list.above(), level, 1));
        }
        List<Suggester.Source> free = level.sources.fields().stream()
                .filter(s -> !used.contains(s.wire()))
                .toList();
        for (Suggester.Suggestion each : Suggester.suggest(free, level.wanted, from.accepted())) {
            Fill fill = Fill.wire("", each.target(), each.wire());
            all.add(new Proposed(
                    each.format() == null ? fill : fill.with(each.format()), each.score(), each.reason(), level.needs));
        }
        return all;
    }

    /** Returns which lists could be filled from which repeated nodes, the best first. */
    private List<Match> matches(List<ListField> lists, Level level) {
        List<Match> matches = new ArrayList<>();
        for (ListField list : lists) {
            for (SourceLevel nodes : level.sources.repeated()) {
                Match match = used.contains(nodes.path()) ? null : match(list, nodes, level.needs);
                if (match != null) {
                    matches.add(match);
                }
            }
        }
        matches.sort(Comparator.comparingDouble(Match::weight).reversed());
        return matches;
    }

    /** Returns how a list would be filled from repeated nodes, null when they have too little in common. */
    private Match match(ListField list, SourceLevel nodes, String needs) {
        SheetField field = list.field();
        Fill repeat = Fill.repeat("", field.path(), nodes.path(), nodes.as());
        if (field.children().isEmpty() || field.rule() != null) {
            if (nodes.value() == null || field.rule() == null) {
                return null;
            }
            List<Suggester.Suggestion> found =
                    Suggester.suggest(List.of(nodes.value()), List.of(wanted(field, list.above())));
            return found.isEmpty()
                    ? null
                    : new Match(
                            list,
                            nodes,
                            List.of(new Proposed(
                                    repeat, found.get(0).score(), found.get(0).reason(), needs)),
                            found.get(0).score());
        }
        Level inside = new Level(nodes, List.of(), field.path());
        below(field, list.above(), inside, 1);
        List<Proposed> its = finish(inside);
        List<Proposed> sure = its.stream()
                .filter(p -> p.score() >= Suggester.ACCEPT_BAR && field.path().equals(p.needs()))
                .toList();
        boolean named = NameWords.of(nodes.as()).stream()
                .anyMatch(w -> NameWords.best(w, NameWords.of(field.name().local())) > 0.9);
        if (sure.isEmpty() || sure.size() == 1 && !named) {
            return null;
        }
        double mean = sure.stream().mapToDouble(Proposed::score).average().orElse(0);
        List<Proposed> all = new ArrayList<>();
        all.add(new Proposed(repeat, mean, reason(nodes, sure, named), needs));
        all.addAll(its);
        return new Match(list, nodes, all, sure.size() * mean + (named ? 1 : 0));
    }

    private static String reason(SourceLevel nodes, List<Proposed> sure, boolean named) {
        String names = String.join(
                ", ",
                sure.stream()
                        .limit(3)
                        .map(p -> p.fill().target())
                        .map(t -> t.substring(Math.max(t.lastIndexOf('}'), t.lastIndexOf('/')) + 1))
                        .toList());
        return "one for each " + nodes.path() + (named ? ", which has its name" : "") + "; " + sure.size()
                + (sure.size() == 1 ? " field of it fits: " : " fields of it fit: ") + names
                + (sure.size() > 3 ? " …" : "");
    }
}
