package wirekettle.core.assist;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.ValueFormat;

/**
 * Proposes wires by names, surrounding names, documentation, types, sample values and what was accepted before:
 * one best assignment over all fields, each with a reason.
 */
public final class Suggester {
    /** Proposals scoring at least this can be accepted together. Between 0 and 1. */
    public static final double ACCEPT_BAR = 0.6;

    private static final double LEAST = 0.45;

    /** What values that fit their target add at most. */
    private static final double FIT = 0.05;

    /** What values that look like what is wanted add at most. */
    private static final double LOOKS = 0.12;

    private static final Rated NOTHING = new Rated(0, "", null);

    /**
     * A source field with values seen.
     *
     * @param wire the path to it
     * @param name its name
     * @param format the format inferred for it, or null
     * @param samples some values
     */
    public record Source(String wire, String name, ValueFormat format, List<String> samples) {}

    /**
     * A target without a fill.
     *
     * @param path the target path or column
     * @param name its name
     * @param context the names above it, the nearest last
     * @param documentation its documentation
     * @param rule what it may hold, or null
     * @param required whether it must be filled
     */
    public record Wanted(
            String path, String name, String context, String documentation, ValueRule rule, boolean required) {}

    /**
     * A proposal.
     *
     * @param target the target's path
     * @param wire the source proposed
     * @param format a format the values need, or null
     * @param score between 0 and 1
     * @param reason why, in words
     */
    public record Suggestion(String target, String wire, ValueFormat format, double score, String reason) {}

    private record Words(List<String> own, List<String> above, List<String> root, List<String> told) {}

    private record Rated(double score, String reason, ValueFormat format) {}

    private final List<Source> sources;
    private final List<Wanted> targets;
    private final Map<String, String> accepted;
    private final Map<String, Integer> often = new HashMap<>();
    private final Map<Source, Optional<SampleLooks>> seen = new IdentityHashMap<>();
    private final List<Words> wanted = new ArrayList<>();
    private final List<List<String>> given = new ArrayList<>();

    private Suggester(List<Source> sources, List<Wanted> targets, Map<String, String> accepted) {
        this.sources = sources;
        this.targets = targets;
        this.accepted = accepted;
        Set<String> seen = new HashSet<>();
        for (Wanted target : targets) {
            List<String> above =
                    new ArrayList<>(List.of(target.context().strip().split("\\s+")));
            List<String> root = above.isEmpty() ? List.of() : NameWords.of(above.remove(0));
            List<String> around =
                    above.stream().flatMap(n -> NameWords.of(n).stream()).toList();
            wanted.add(new Words(NameWords.of(target.name()), around, root, NameWords.of(target.documentation())));
            seen.addAll(wanted.get(wanted.size() - 1).own());
            seen.addAll(around);
            seen.addAll(root);
        }
        for (Source source : sources) {
            List<String> words = NameWords.apart(NameWords.of(source.name()), seen);
            given.add(words);
            new HashSet<>(words).forEach(word -> often.merge(word, 1, Integer::sum));
        }
        for (Words words : wanted) {
            new HashSet<>(words.own()).forEach(word -> often.merge(word, 1, Integer::sum));
        }
    }

    /** Returns the best assignment, strongest first; pairs that say too little are left out. */
    public static List<Suggestion> suggest(List<Source> sources, List<Wanted> targets) {
        return suggest(sources, targets, Map.of());
    }

    /**
     * Returns the best assignment, with what people accepted before. Of sources with the same name and the same values,
     * as a record and its item have them, the last one given stands for all.
     *
     * @param accepted wires accepted earlier between the same contract and dataset, by target path
     */
    public static List<Suggestion> suggest(List<Source> sources, List<Wanted> targets, Map<String, String> accepted) {
        Map<List<Object>, Source> distinct = new LinkedHashMap<>();
        for (Source source : sources) {
            boolean seen = source.samples().stream().anyMatch(value -> !value.isBlank())
                    && !accepted.containsValue(source.wire());
            List<Object> key = seen ? List.of(source.name(), source.samples()) : List.of(source.wire());
            distinct.remove(key);
            distinct.put(key, source);
        }
        return new Suggester(List.copyOf(distinct.values()), targets, accepted).best();
    }

    private List<Suggestion> best() {
        Rated[][] rated = new Rated[targets.size()][sources.size()];
        double[][] gain = new double[targets.size()][sources.size()];
        for (int t = 0; t < targets.size(); t++) {
            for (int s = 0; s < sources.size(); s++) {
                rated[t][s] = rate(s, t);
                gain[t][s] = rated[t][s].score() < LEAST ? 0 : rated[t][s].score();
            }
        }
        int[] chosen = Assignment.best(gain, sources.size());
        List<Suggestion> suggestions = new ArrayList<>();
        for (int t = 0; t < chosen.length; t++) {
            if (chosen[t] >= 0 && gain[t][chosen[t]] > 0) {
                Rated why = rated[t][chosen[t]];
                double sure = why.score() - doubt(gain, t, chosen[t]);
                if (sure >= LEAST) {
                    suggestions.add(new Suggestion(
                            targets.get(t).path(), sources.get(chosen[t]).wire(), why.format(), sure, why.reason()));
                }
            }
        }
        suggestions.sort(Comparator.comparingDouble(Suggestion::score).reversed());
        return suggestions;
    }

    /** A choice is less sure when another source, or another target of the same source, would do as well. */
    private static double doubt(double[][] gain, int target, int source) {
        double other = 0;
        for (int s = 0; s < gain[target].length; s++) {
            other = s == source ? other : Math.max(other, gain[target][s]);
        }
        for (int t = 0; t < gain.length; t++) {
            other = t == target ? other : Math.max(other, gain[t][source]);
        }
        double margin = gain[target][source] - other;
        return margin >= 0.1 ? 0 : Math.min(0.2, 0.2 - margin * 2);
    }

    private Rated rate(int s, int t) {
        Source source = sources.get(s);
        Wanted target = targets.get(t);
        Words words = wanted.get(t);
        List<String> mine = given.get(s);
        if (source.wire().equals(accepted.get(target.path()))) {
            Fit fit = fit(source, target.rule());
            return new Rated(1, "accepted before for this dataset", fit.format());
        }
        double name = covered(words.own(), List.of(mine));
        // an empty match of names cannot be made good by anything else
        double base = name == 0
                ? 0.35 * covered(mine, List.of(words.told()))
                : 0.5 * name + 0.45 * covered(mine, List.of(words.own(), words.above(), words.root(), words.told()));
        if (base + FIT + LOOKS < LEAST) {
            return NOTHING; // most pairs: whatever their values say, they come to too little
        }
        double around = words.above().isEmpty() ? 0 : covered(mine, List.of(words.above()));
        Fit fit = fit(source, target.rule());
        SampleLooks looks = seen.computeIfAbsent(source, its -> Optional.ofNullable(SampleLooks.of(its.samples())))
                .orElse(null);
        double sits = looks == null ? 0 : looks.sits(words.own(), target.rule());
        double score = Math.max(0, Math.min(1, base + FIT * fit.weight() + (base > 0.25 ? sits : 0)));
        if (fit.weight() < 0) {
            score *= 0.35;
        }
        return new Rated(score, reason(mine, words, name, around, looks, sits, fit), fit.format());
    }

    /** How much of some words is found among others, rare words counting more; words of later lists count less. */
    private double covered(List<String> words, List<List<String>> among) {
        double all = 0;
        double found = 0;
        for (String word : words) {
            double weight = 1 / Math.sqrt(often.getOrDefault(word, 1));
            all += weight;
            double best = 0;
            double share = 1;
            for (List<String> list : among) {
                best = Math.max(best, share * NameWords.best(word, list));
                share -= 0.1;
            }
            found += weight * best;
        }
        return all == 0 ? 0 : found / all;
    }

    private static String reason(
            List<String> mine, Words words, double name, double around, SampleLooks looks, double sits, Fit fit) {
        List<String> parts = new ArrayList<>();
        if (name > 0.999 && mine.size() == words.own().size()) {
            parts.add("same name");
        } else {
            Set<String> shared = new LinkedHashSet<>();
            for (String word : words.own()) {
                if (mine.contains(word)) {
                    shared.add(word);
                } else {
                    mine.stream()
                            .filter(m -> NameWords.alike(m, word) > 0)
                            .findFirst()
                            .ifPresent(m -> shared.add(m + " = " + word));
                }
            }
            parts.add(shared.isEmpty() ? "its documentation agrees" : "shares “" + String.join(", ", shared) + "”");
        }
        if (around > 0.2) {
            parts.add("words around it agree");
        }
        if (looks != null && sits > 0) {
            parts.add("samples look like " + looks.words());
        }
        if (!fit.words().isEmpty()) {
            parts.add(fit.words());
        }
        return String.join(", ", parts);
    }

    private record Fit(double weight, String words, ValueFormat format) {}

    private static Fit fit(Source source, ValueRule rule) {
        List<String> values =
                source.samples().stream().filter(v -> !v.isBlank()).limit(50).toList();
        if (rule == null || values.isEmpty()) {
            return new Fit(0.4, "", null);
        }
        long plain = values.stream().filter(v -> rule.problem(v) == null).count();
        if (plain * 2 >= values.size()) {
            return new Fit(
                    plain / (double) values.size(),
                    plain == values.size() ? "all samples fit" : "most samples fit",
                    null);
        }
        if (source.format() != null) {
            Conversion conversion = source.format().compile();
            long read = values.stream().filter(v -> reads(conversion, rule, v)).count();
            if (read * 2 >= values.size()) {
                return new Fit(0.9, "read as " + source.format().label(), source.format());
            }
        }
        return new Fit(-1, "samples do not fit", null);
    }

    private static boolean reads(Conversion conversion, ValueRule rule, String value) {
        try {
            return rule.problem(conversion.convert(value)) == null;
        } catch (ConversionException e) {
            return false;
        }
    }
}
