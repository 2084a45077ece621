package wirekettle.core.mapping;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.ValueFormat;

/** Proposes wires by names, types and sample values: one best assignment over all fields, each with a reason. */
public final class Suggester {
    /** Proposals scoring at least this can be accepted together. Between 0 and 1. */
    public static final double ACCEPT_BAR = 0.6;

    private static final double LEAST = 0.42;
    private static final Map<String, String> SHORT = Map.ofEntries(
            Map.entry("qty", "quantity"),
            Map.entry("no", "number"),
            Map.entry("num", "number"),
            Map.entry("nr", "number"),
            Map.entry("addr", "address"),
            Map.entry("desc", "description"),
            Map.entry("amt", "amount"),
            Map.entry("ref", "reference"),
            Map.entry("dt", "date"),
            Map.entry("tel", "phone"),
            Map.entry("wt", "weight"),
            Map.entry("kg", "weight"),
            Map.entry("id", "number"),
            Map.entry("reg", "registration"),
            Map.entry("town", "city"),
            Map.entry("code", "number"),
            Map.entry("len", "length"));

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
     * @param context the names above it
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

    private record Rated(double score, String reason, ValueFormat format) {}

    private Suggester() {}

    /** Returns the best assignment, strongest first; pairs that say too little are left out. */
    public static List<Suggestion> suggest(List<Source> sources, List<Wanted> targets) {
        Rated[][] rated = new Rated[targets.size()][sources.size()];
        double[][] gain = new double[targets.size()][sources.size()];
        for (int t = 0; t < targets.size(); t++) {
            for (int s = 0; s < sources.size(); s++) {
                rated[t][s] = rate(sources.get(s), targets.get(t));
                gain[t][s] = rated[t][s].score() < LEAST ? 0 : rated[t][s].score();
            }
        }
        int[] chosen = Assignment.best(gain, sources.size());
        List<Suggestion> suggestions = new ArrayList<>();
        for (int t = 0; t < chosen.length; t++) {
            if (chosen[t] >= 0 && gain[t][chosen[t]] > 0) {
                Rated why = rated[t][chosen[t]];
                suggestions.add(new Suggestion(
                        targets.get(t).path(), sources.get(chosen[t]).wire(), why.format(), why.score(), why.reason()));
            }
        }
        suggestions.sort(Comparator.comparingDouble(Suggestion::score).reversed());
        return suggestions;
    }

    private static Rated rate(Source source, Wanted target) {
        Set<String> a = words(source.name());
        Set<String> b = words(target.name());
        Set<String> around = words(target.context() + " " + target.documentation());
        double name = overlap(a, b);
        boolean same = name > 0.999;
        double context = same ? 0 : 0.18 * shareOf(minus(a, b), around);
        Fit fit = fit(source, target.rule());
        double score = Math.min(1, name * 0.8 + context + fit.weight() * 0.2);
        if (fit.weight() < 0) {
            score *= 0.35;
        }
        String reason = (same
                        ? "same name"
                        : name > 0 ? "shares “" + String.join(" ", common(a, b)) + "”" : "no name in common")
                + (context > 0.05 ? ", words around it agree" : "")
                + (fit.words().isEmpty() ? "" : ", " + fit.words());
        return new Rated(score, reason, fit.format());
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

    private static Set<String> words(String text) {
        Set<String> words = new HashSet<>();
        for (String word : text.split("(?<=[a-z0-9])(?=[A-Z])|[^\\p{L}\\p{N}]+")) {
            String lower = word.toLowerCase(Locale.ROOT);
            if (!lower.isEmpty()) {
                words.add(SHORT.getOrDefault(stem(lower), stem(lower)));
            }
        }
        return words;
    }

    private static String stem(String word) {
        return word.length() > 4 && word.endsWith("s") && !word.endsWith("ss")
                ? word.substring(0, word.length() - 1)
                : word;
    }

    private static double overlap(Set<String> a, Set<String> b) {
        if (a.isEmpty() || b.isEmpty()) {
            return 0;
        }
        double matched = 0;
        for (String word : a) {
            matched += b.contains(word) ? 1 : nearest(word, b);
        }
        return 2 * matched / (a.size() + b.size());
    }

    private static double nearest(String word, Set<String> others) {
        double best = 0;
        for (String other : others) {
            int shared = 0;
            int shorter = Math.min(word.length(), other.length());
            while (shared < shorter && word.charAt(shared) == other.charAt(shared)) {
                shared++;
            }
            double share = shared / (double) Math.max(word.length(), other.length());
            if (shared >= 3 && share >= 0.4) {
                best = Math.max(best, share * 0.9);
            }
        }
        return best;
    }

    private static Set<String> minus(Set<String> a, Set<String> b) {
        Set<String> rest = new HashSet<>(a);
        rest.removeAll(b);
        return rest;
    }

    private static double shareOf(Set<String> some, Set<String> in) {
        return some.isEmpty() ? 0 : some.stream().filter(in::contains).count() / (double) some.size();
    }

    private static List<String> common(Set<String> a, Set<String> b) {
        List<String> shared = a.stream().filter(b::contains).sorted().toList();
        return shared.isEmpty() ? List.of(a.stream().sorted().findFirst().orElse("")) : shared;
    }
}
