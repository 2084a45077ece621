package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * Codes of one side and what they are called on the other. Safe for several threads.
 *
 * @param name its name
 * @param otherwise what a code without an entry becomes, null when that is a problem
 * @param entries the codes
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record CodeTable(String name, String otherwise, List<Entry> entries) {
    /**
     * One code.
     *
     * @param code what is looked up
     * @param value what it becomes
     * @param from the first day it counts ({@code 2026-12-04}), null for always
     * @param until the last day it counts, null for ever
     */
    @JsonInclude(JsonInclude.Include.NON_NULL)
    public record Entry(String code, String value, String from, String until) {}

    /** Keeps its own copy. */
    public CodeTable {
        entries = entries == null ? List.of() : List.copyOf(entries);
    }

    /** Returns the table ready for many look-ups; a day that is none is an {@link IllegalArgumentException}. */
    public Index index() {
        return new Index(this);
    }

    /** A table by code. */
    public static final class Index {
        private record Dated(String value, LocalDate from, LocalDate until) {
            boolean counts(LocalDate day) {
                return (from == null || day == null || !day.isBefore(from))
                        && (until == null || day == null || !day.isAfter(until));
            }
        }

        private final Map<String, List<Dated>> byCode = new HashMap<>();
        private final String otherwise;

        private Index(CodeTable table) {
            otherwise = table.otherwise();
            for (Entry entry : table.entries()) {
                List<Dated> same = byCode.getOrDefault(entry.code(), List.of());
                List<Dated> more = new java.util.ArrayList<>(same);
                more.add(new Dated(entry.value(), day(entry.from(), entry), day(entry.until(), entry)));
                byCode.put(entry.code(), List.copyOf(more));
            }
        }

        private static LocalDate day(String text, Entry entry) {
            try {
                return text == null || text.isBlank() ? null : LocalDate.parse(text.strip());
            } catch (java.time.DateTimeException e) {
                throw new IllegalArgumentException(
                        "the entry of code " + entry.code() + " has “" + text + "”, which is no day like 2026-12-04");
            }
        }

        /**
         * Returns what a code becomes on a day.
         *
         * @param day null when every entry counts
         * @return null when there is no entry and nothing else to use
         */
        public String find(String code, LocalDate day) {
            for (Dated entry : byCode.getOrDefault(code, List.of())) {
                if (entry.counts(day)) {
                    return entry.value();
                }
            }
            return otherwise;
        }

        /** Tells whether a code has an entry, on whatever day. */
        public boolean knows(String code) {
            return byCode.containsKey(code);
        }
    }
}
