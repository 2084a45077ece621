package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.function.UnaryOperator;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.soap.FailureClass;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/**
 * What happens when a stage or the whole flow fails for a record. Its rules are read in order; the first that fits says
 * it. What fits no rule goes to the lane outside.
 *
 * @param rules the rules
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Lane(List<Rule> rules) {
    /** What a rule does. */
    public enum Then {
        /** Tries the stage again; when that is over, the rules behind it are read. */
        AGAIN,
        /** Uses a value for the stage's variable and goes on behind the stage. */
        USE,
        /** Runs stages and goes on behind the stage. */
        GO_ON,
        /** Runs stages and rejects the record. */
        REJECT,
        /** Rejects the record and stops the run. */
        STOP,
        /** Asks what became of a change that is in doubt, when its record goes on or is asked about. */
        ASK;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    /**
     * What the answer of a service tells of a change that is in doubt. More than one holding is conflicting; where none
     * holds, nobody knows.
     *
     * @param done XPath 3.1 over what the rule's stages made: it took place
     * @param notDone it did not take place, and may be sent; null or blank for never
     * @param conflicting a person has to look at it; null or blank for never
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Outcomes(String done, String notDone, String conflicting) {}

    /**
     * One rule.
     *
     * @param id unique in its flow
     * @param on the classes of failure it is for; empty for all
     * @param when XPath 3.1 over {@code $failure} and what is in reach; null for all
     * @param then what it does
     * @param times how often at most the stage is tried again, 1 to 10
     * @param backOffMillis wait before the first time, doubled each time
     * @param columns the fields of the value used; of a rule that asks, of what stands for the reply when it is done
     * @param fills what fills them
     * @param stages what is run
     * @param outcomes what the answer of a rule that asks tells, null for others
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Rule(
            String id,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<FailureClass> on,
            String when,
            Then then,
            Integer times,
            Integer backOffMillis,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Column> columns,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Fill> fills,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Stage> stages,
            Outcomes outcomes)
            implements MakesRecord {
        /** Fills in what may be left out. */
        public Rule {
            on = on == null ? List.of() : List.copyOf(on);
            then = then == null ? Then.REJECT : then;
            times = then == Then.AGAIN ? Math.max(1, Math.min(10, times == null ? 2 : times)) : null;
            backOffMillis = then == Then.AGAIN ? Math.max(0, backOffMillis == null ? 200 : backOffMillis) : null;
            columns = columns == null ? List.of() : List.copyOf(columns);
            fills = fills == null ? List.of() : List.copyOf(fills);
            stages = stages == null ? List.of() : List.copyOf(stages);
            outcomes = then != Then.ASK ? null : outcomes == null ? new Outcomes(null, null, null) : outcomes;
        }

        /** A rule that asks nobody. */
        public Rule(
                String id,
                List<FailureClass> on,
                String when,
                Then then,
                Integer times,
                Integer backOffMillis,
                List<Column> columns,
                List<Fill> fills,
                List<Stage> stages) {
            this(id, on, when, then, times, backOffMillis, columns, fills, stages, null);
        }

        /** Returns a rule that asks what became of a change; its fills make what stands for the reply. */
        public static Rule ask(String id, Outcomes outcomes, List<Column> columns, List<Fill> fills, Stage... stages) {
            return new Rule(id, null, null, Then.ASK, null, null, columns, fills, List.of(stages), outcomes);
        }

        /** Returns a rule that tries again what failed in some ways. */
        public static Rule again(String id, List<FailureClass> on, int times, int backOffMillis) {
            return new Rule(id, on, null, Then.AGAIN, times, backOffMillis, null, null, null);
        }

        /** Returns a rule that runs stages and goes on or rejects. */
        public static Rule run(String id, List<FailureClass> on, Then then, Stage... stages) {
            return new Rule(id, on, null, then, null, null, null, null, List.of(stages));
        }

        /** Returns a rule that uses a value. */
        public static Rule use(String id, List<FailureClass> on, List<Column> columns, List<Fill> fills) {
            return new Rule(id, on, null, Then.USE, null, null, columns, fills, null);
        }

        /** Returns this rule only where a condition holds. */
        public Rule onlyWhen(String condition) {
            return new Rule(id, on, condition, then, times, backOffMillis, columns, fills, stages, outcomes);
        }

        /** Returns this rule with other fills. */
        Rule filled(List<Fill> others) {
            return new Rule(id, on, when, then, times, backOffMillis, columns, others, stages, outcomes);
        }

        @Override
        public String rows() {
            return null;
        }

        @Override
        public DocumentForm document() {
            return DocumentForm.XML;
        }

        @Override
        public List<DocumentPlan.Group> groups() {
            return List.of();
        }
    }

    /** Keeps its own copy. */
    public Lane {
        rules = rules == null ? List.of() : List.copyOf(rules);
    }

    /** Returns a lane of some rules. */
    public static Lane of(Rule... rules) {
        return new Lane(List.of(rules));
    }

    /** Returns the stages of all rules. */
    public List<Stage> stages() {
        List<Stage> all = new ArrayList<>();
        rules.forEach(rule -> all.addAll(rule.stages()));
        return all;
    }

    /** Returns a lane with other fills at a rule; null stays null. */
    static Lane filled(Lane lane, String id, List<Fill> fills) {
        return lane == null
                ? null
                : new Lane(lane.rules().stream()
                        .map(rule -> rule.id().equals(id) ? rule.filled(fills) : rule)
                        .toList());
    }

    /** Returns a lane with every stage in it changed; null stays null. */
    static Lane mapped(Lane lane, UnaryOperator<Stage> change) {
        return lane == null
                ? null
                : new Lane(lane.rules().stream()
                        .map(rule -> new Rule(
                                rule.id(),
                                rule.on(),
                                rule.when(),
                                rule.then(),
                                rule.times(),
                                rule.backOffMillis(),
                                rule.columns(),
                                rule.fills(),
                                rule.stages().stream().map(change).toList(),
                                rule.outcomes()))
                        .toList());
    }
}
