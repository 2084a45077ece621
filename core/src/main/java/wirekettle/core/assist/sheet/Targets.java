package wirekettle.core.assist.sheet;

import java.util.List;
import java.util.Locale;
import wirekettle.core.fill.Fill;
import wirekettle.core.value.Column;

/** What the lines of a sheet can fill, by the names they give it. */
interface Targets {
    /**
     * Something to be filled.
     *
     * @param path the target of its fill
     * @param branch whether it has fields of its own, so that it is filled with a copy
     */
    record Target(String path, boolean branch) {}

    /** Returns what has a name, null when nothing has. */
    Target find(String name);

    /** Returns what is said of a name that nothing has. */
    String unknown(String name);

    /** Returns why a fill cannot stand at what it is proposed for, null when it can. */
    default String misplaced(Fill fill) {
        return null;
    }

    /** Returns the columns of a record: by their names, places in a document by their last steps too. */
    static Targets of(List<Column> columns) {
        return new Targets() {
            @Override
            public Target find(String name) {
                String wanted = name.strip().replaceAll("\\s*/\\s*", "/").toLowerCase(Locale.ROOT);
                String only = null;
                for (Column column : columns) {
                    String its = column.name().toLowerCase(Locale.ROOT);
                    if (its.equals(wanted)) {
                        return new Target(column.name(), false);
                    }
                    if (its.endsWith("/" + wanted)) {
                        only = only == null ? column.name() : "";
                    }
                }
                return only == null || only.isEmpty() ? null : new Target(only, false);
            }

            @Override
            public String unknown(String name) {
                return "“" + name + "” is no column of this record: add the column first";
            }

            @Override
            public String misplaced(Fill fill) {
                boolean value = fill.repeat() == null && !fill.copies() && !fill.picks() && !fill.nil();
                return value ? null : "a column holds one value: what repeats is said where the record is made";
            }
        };
    }
}
