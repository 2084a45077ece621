package wirekettle.benchmarks;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import wirekettle.core.assist.Suggester;
import wirekettle.core.assist.Suggester.Source;
import wirekettle.core.assist.Suggester.Suggestion;
import wirekettle.core.assist.Suggester.Wanted;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.schema.SchemaReader;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.TypeUse;
import wirekettle.core.value.Name;

/**
 * How good suggestions are: sixteen pairs of sources and targets whose answers are known. Precision of those above the
 * bar at which they can be accepted together, recall of all that have a match; only the held-out eight decide.
 */
public final class SuggestBenchmark {
    private static final SchemaSet BUILT_INS = SchemaReader.read(List.of(), new ArrayList<>());

    private SuggestBenchmark() {}

    private static final class Score {
        private int right;
        private int wrong;
        private int matches;

        double precision() {
            return right + wrong == 0 ? 0 : right / (double) (right + wrong);
        }

        double recall() {
            return right / (double) matches;
        }
    }

    /** Runs the benchmark; with --wrong it says what was not as answered. */
    public static void main(String[] args) throws IOException {
        boolean tell = args.length > 0 && args[0].equals("--wrong");
        Score work = new Score();
        Score held = new Score();
        for (int i = 1; i <= 8; i++) {
            judge("work-" + i, work, tell);
            // what only judges is never looked into
            judge("held-" + i, held, false);
        }
        print("to work with", work);
        print("held out", held);
        boolean holds = held.precision() >= 0.95 && held.recall() >= 0.7;
        System.out.printf(
                Locale.ROOT,
                "ratio: precision %.3f (hold: at least 0.95), recall %.3f (hold: at least 0.70)%n",
                held.precision(),
                held.recall());
        System.exit(holds ? 0 : 1);
    }

    private static void print(String what, Score score) {
        System.out.printf(
                Locale.ROOT,
                "suggest, %s: %d right, %d wrong of %d matches%n",
                what,
                score.right,
                score.wrong,
                score.matches);
    }

    private static void judge(String name, Score score, boolean tell) throws IOException {
        List<Source> sources = new ArrayList<>();
        List<Wanted> targets = new ArrayList<>();
        Map<String, String> answers = new HashMap<>();
        try (InputStream in = SuggestBenchmark.class.getResourceAsStream("/suggest/" + name + ".txt");
                BufferedReader reader = new BufferedReader(new InputStreamReader(in, StandardCharsets.UTF_8))) {
            for (String line = reader.readLine(); line != null; line = reader.readLine()) {
                if (line.startsWith("+")) {
                    source(line.substring(1).strip(), sources);
                } else if (!line.isBlank()) {
                    String[] sides = line.split(" = ", 2);
                    Wanted target = target(sides[0]);
                    targets.add(target);
                    if (!sides[1].strip().equals("-")) {
                        answers.put(target.path(), source(sides[1].strip(), sources));
                    }
                }
            }
        }
        sources.sort(java.util.Comparator.comparing(Source::wire));
        score.matches += answers.size();
        for (Suggestion suggestion : Suggester.suggest(sources, targets)) {
            boolean right = suggestion.wire().equals(answers.get(suggestion.target()));
            boolean sure = suggestion.score() >= Suggester.ACCEPT_BAR;
            score.right += sure && right ? 1 : 0;
            score.wrong += sure && !right ? 1 : 0;
            if (tell && (!right || !sure)) {
                System.out.printf(
                        Locale.ROOT,
                        "%s %s %.2f %s <- %s (%s)%n",
                        name,
                        right ? "unsure" : sure ? "WRONG" : "low wrong",
                        suggestion.score(),
                        suggestion.target(),
                        suggestion.wire(),
                        suggestion.reason());
            }
        }
    }

    private static String source(String text, List<Source> into) {
        String[] parts = text.split(" : ", 2);
        String wire = "$source/" + parts[0].strip();
        into.add(new Source(wire, parts[0].strip(), null, List.of(parts[1].split(";\\s*"))));
        return wire;
    }

    private static Wanted target(String text) {
        String[] parts = text.split(" : ?", 3);
        String path = parts[0].strip();
        int last = path.lastIndexOf('/');
        var rule = BUILT_INS.rule(TypeUse.named(new Name(BuiltIn.XSD, parts[1].strip())));
        return new Wanted(
                path,
                path.substring(last + 1),
                path.substring(0, last).replace('/', ' '),
                parts.length > 2 ? parts[2].strip() : "",
                rule,
                false);
    }
}
