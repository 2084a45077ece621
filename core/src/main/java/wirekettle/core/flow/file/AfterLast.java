package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Locale;
import java.util.function.UnaryOperator;

/**
 * What is run once after the last record.
 *
 * @param stages its stages; what the run has come to is in reach as {@code $run}
 * @param when after which runs; those that came to their end, with or without records, when left out
 * @param sums numbers added up over the records, apart for each of their ends, as {@code $run/sums}; what is no number
 *     counts as nothing
 */
@JsonInclude(JsonInclude.Include.NON_EMPTY)
public record AfterLast(List<Stage> stages, List<When> when, List<NamedValue> sums) {
    /** How a run came to its end. */
    public enum When {
        /** All its records have an end. */
        DONE,
        /** There were no records. */
        EMPTY,
        /** It failed, or a failure lane stopped it. */
        FAILED,
        /** Somebody cancelled it. */
        CANCELLED;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Fills in what may be left out. */
    public AfterLast {
        stages = stages == null ? List.of() : List.copyOf(stages);
        when = when == null || when.isEmpty() ? List.of(When.DONE, When.EMPTY) : List.copyOf(when);
        sums = sums == null ? List.of() : List.copyOf(sums);
    }

    /** Returns this with its stages changed. */
    AfterLast mapped(UnaryOperator<Stage> change) {
        return new AfterLast(stages.stream().map(change).toList(), when, sums);
    }
}
