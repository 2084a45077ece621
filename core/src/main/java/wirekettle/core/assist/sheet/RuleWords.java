package wirekettle.core.assist.sheet;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.Fill.WhenEmpty.Use;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.value.ValueFormat;

/** What a fill says beside its source, each in a few words, and read again. */
final class RuleWords {
    private static final Pattern FILE = words("file in (.+?)(?:, called (.+))?");
    private static final Pattern LOOK_UP = words("look ?up in (.+?)(?:, on (\\$\\S+))?");
    private static final Pattern DEFAULT = words("default “?\"?([^\"”]*)\"?”?");
    private static final Pattern WHEN = words("(?:only )?when (.+)");
    private static final Pattern AS = words("each as \\$(\\S+)");
    private static final Pattern WHERE = words("where (.+)");
    private static final Pattern ORDER = words("in order of (.+)");
    private static final Pattern GROUPED = words("grouped by (.+)");
    private static final Pattern BETWEEN = words("between “(.*)”");
    private static final Map<String, Use> EMPTY = Map.of(
            "nil when empty", Use.NIL,
            "leave out when empty", Use.LEAVE_OUT,
            "send when empty", Use.SEND,
            "reject when empty", Use.REJECT);

    private RuleWords() {}

    private static Pattern words(String pattern) {
        return Pattern.compile(pattern, Pattern.CASE_INSENSITIVE);
    }

    /** Returns everything a fill says beside its source, in words. */
    static List<String> of(Fill fill) {
        List<String> rules = new ArrayList<>();
        if (fill.by() instanceof FilledBy.Repeat repeat) {
            each(repeat, rules);
        }
        if (fill.by() instanceof FilledBy.Join join && join.by() != null) {
            rules.add("between “" + join.by() + "”");
        }
        for (ValueFormat step = fill.format(); step != null; step = step.then()) {
            rules.add(FormatWords.of(step));
        }
        if (fill.lookUp() != null) {
            rules.add("look up in " + fill.lookUp().table()
                    + (fill.lookUp().on() == null ? "" : ", on " + fill.lookUp().on()));
        }
        if (fill.file() != null) {
            String name =
                    fill.file().name() == null ? "" : ", called " + fill.file().name();
            rules.add("file in " + fill.file().folder() + name);
        }
        if (fill.whenEmpty() != null) {
            Use use = fill.whenEmpty().use();
            rules.add(EMPTY.entrySet().stream()
                    .filter(e -> e.getValue() == use)
                    .map(Map.Entry::getKey)
                    .findFirst()
                    .orElse("default “" + fill.whenEmpty().value() + "”"));
        }
        if (fill.when() != null) {
            rules.add("when " + fill.when());
        }
        return rules;
    }

    private static void each(FilledBy.Repeat repeat, List<String> rules) {
        if (repeat.as() != null && !repeat.as().equals(SourceWords.variable(repeat.from()))) {
            rules.add("each as $" + repeat.as());
        }
        if (repeat.each() != null) {
            if (repeat.each().where() != null) {
                rules.add("where " + repeat.each().where());
            }
            if (!repeat.each().groupBy().isEmpty()) {
                rules.add("grouped by " + String.join(", ", repeat.each().groupBy()));
            }
            if (!repeat.each().order().isEmpty()) {
                rules.add("in order of "
                        + String.join(
                                ", ",
                                repeat.each().order().stream()
                                        .map(by -> (Boolean.TRUE.equals(by.descending()) ? "-" : "") + by.by())
                                        .toList()));
            }
        }
    }

    /** Returns a fill with what a rule says; null when the rule is not understood. */
    static Fill read(Fill fill, String rule) {
        Matcher said;
        if ((said = LOOK_UP.matcher(rule)).matches()) {
            return fill.with(new Fill.LookUp(said.group(1).strip(), said.group(2)));
        }
        if ((said = FILE.matcher(rule)).matches()) {
            return fill.with(new Fill.InFolder(said.group(1).strip(), said.group(2)));
        }
        if ((said = DEFAULT.matcher(rule)).matches()) {
            return fill.with(new Fill.WhenEmpty(Use.DEFAULT, said.group(1)));
        }
        if ((said = WHEN.matcher(rule)).matches()) {
            return fill.onlyWhen(said.group(1));
        }
        if (fill.by() instanceof FilledBy.Join join && (said = BETWEEN.matcher(rule)).matches()) {
            return fill.by(new FilledBy.Join(join.parts(), said.group(1)));
        }
        if (fill.by() instanceof FilledBy.Repeat repeat) {
            Fill.Each each = repeat.each() == null ? new Fill.Each(null, null, null) : repeat.each();
            if ((said = AS.matcher(rule)).matches()) {
                return fill.bound(said.group(1));
            }
            if ((said = WHERE.matcher(rule)).matches()) {
                return fill.with(new Fill.Each(said.group(1), each.order(), each.groupBy()));
            }
            if ((said = GROUPED.matcher(rule)).matches()) {
                return fill.with(new Fill.Each(each.where(), each.order(), Apart.at(said.group(1), ',')));
            }
            if ((said = ORDER.matcher(rule)).matches()) {
                List<Fill.By> order = Apart.at(said.group(1), ',').stream()
                        .map(by -> by.startsWith("-") ? new Fill.By(by.substring(1), true) : new Fill.By(by, null))
                        .toList();
                return fill.with(new Fill.Each(each.where(), order, each.groupBy()));
            }
        }
        Use empty = EMPTY.get(rule.toLowerCase(Locale.ROOT));
        if (empty != null) {
            return fill.with(new Fill.WhenEmpty(empty, null));
        }
        ValueFormat step = FormatWords.read(rule);
        return step == null ? null : fill.with(ValueFormat.after(fill.format(), step));
    }
}
