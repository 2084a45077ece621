package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Locale;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/**
 * Writes records.
 *
 * @param dataset the dataset written to
 * @param mode how
 * @param keys the columns an upsert is decided by
 * @param rows the path of the element that becomes a row; empty for one row a record
 * @param columns the target's columns; in a document a name is a place, {@code crates/no}
 * @param fills what fills them; each target is a column's name
 * @param document the form of one nested document a record, null for rows
 * @param groups the levels of a document that repeat
 * @param properties what a message of a queue says beside its content
 * @param leaveUnfit whether what cannot be mapped is left empty instead of failing the stage
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record WriteStage(
        String id,
        String dataset,
        Mode mode,
        List<String> keys,
        String rows,
        List<Column> columns,
        List<Fill> fills,
        DocumentForm document,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<DocumentPlan.Group> groups,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<NamedText> properties,
        Boolean leaveUnfit,
        Lane lane)
        implements Stage, MakesRecord {
    /** How a target takes what is written. */
    public enum Mode {
        /** A file's content is replaced when the run ends. */
        REPLACE,
        /** A file gets more at its end. */
        APPEND,
        /** A table gets new rows. */
        INSERT,
        /** A table gets new rows, those of a key it has already in their place. */
        UPSERT;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** Fills in what may be left out. */
    public WriteStage {
        mode = mode == null ? Mode.REPLACE : mode;
        keys = keys == null ? List.of() : List.copyOf(keys);
        columns = columns == null ? List.of() : List.copyOf(columns);
        fills = fills == null ? List.of() : List.copyOf(fills);
        groups = groups == null ? List.of() : List.copyOf(groups);
        properties = properties == null ? List.of() : List.copyOf(properties);
    }

    /** Writes what has no properties. */
    public WriteStage(
            String id,
            String dataset,
            Mode mode,
            List<String> keys,
            String rows,
            List<Column> columns,
            List<Fill> fills,
            DocumentForm document,
            List<DocumentPlan.Group> groups,
            Boolean leaveUnfit,
            Lane lane) {
        this(id, dataset, mode, keys, rows, columns, fills, document, groups, null, leaveUnfit, lane);
    }

    /** Writes rows. */
    public WriteStage(
            String id,
            String dataset,
            Mode mode,
            List<String> keys,
            String rows,
            List<Column> columns,
            List<Fill> fills) {
        this(id, dataset, mode, keys, rows, columns, fills, null, null, null, null);
    }

    /** Returns this stage so that it adds to what its target holds instead of replacing it. */
    public WriteStage added() {
        Mode adding = mode == Mode.REPLACE ? Mode.APPEND : mode;
        return new WriteStage(
                id, dataset, adding, keys, rows, columns, fills, document, groups, properties, leaveUnfit, lane);
    }

    /** Returns the names a sink writes above its rows. */
    public List<String> labels() {
        return columns.stream().map(Column::label).toList();
    }

    /** Tells whether what cannot be mapped is left empty. */
    public boolean leavesUnfit() {
        return Boolean.TRUE.equals(leaveUnfit);
    }

    @Override
    public WriteStage filled(List<Fill> others) {
        return new WriteStage(
                id, dataset, mode, keys, rows, columns, others, document, groups, properties, leaveUnfit, lane);
    }

    @Override
    public WriteStage failing(Lane other) {
        return new WriteStage(
                id, dataset, mode, keys, rows, columns, fills, document, groups, properties, leaveUnfit, other);
    }
}
