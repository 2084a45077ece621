package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import wirekettle.core.expression.Script;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/**
 * Makes a record or document: by a script, or by fills.
 *
 * @param language what the script is written in; null where fills make it
 * @param text the script
 * @param input the variable that is the script's context item, without the dollar sign
 * @param as the variable the result is bound to
 * @param rows the path of the element each of which becomes a {@code row} of the result; empty for one record
 * @param columns the fields of the record
 * @param fills what fills them
 * @param document {@link DocumentForm#XML} for a nested record whose columns are places, null for a flat one
 * @param groups the levels of a nested record that repeat
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record MapStage(
        String id,
        Script.Language language,
        String text,
        String input,
        String as,
        String rows,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Column> columns,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Fill> fills,
        DocumentForm document,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<DocumentPlan.Group> groups,
        Lane lane)
        implements Stage, MakesRecord {
    /** Fills in what may be left out. */
    public MapStage {
        columns = columns == null ? List.of() : List.copyOf(columns);
        fills = fills == null ? List.of() : List.copyOf(fills);
        groups = groups == null ? List.of() : List.copyOf(groups);
    }

    /** Makes it by a script. */
    public MapStage(String id, Script.Language language, String text, String input, String as) {
        this(id, language, text, input, as, null, null, null, null, null, null);
    }

    /** Makes a flat record by fills. */
    public static MapStage byFills(String id, String as, List<Column> columns, List<Fill> fills) {
        return new MapStage(id, null, null, null, as, null, columns, fills, null, null, null);
    }

    @Override
    public MapStage filled(List<Fill> others) {
        return new MapStage(id, language, text, input, as, rows, columns, others, document, groups, lane);
    }

    @Override
    public MapStage failing(Lane other) {
        return new MapStage(id, language, text, input, as, rows, columns, fills, document, groups, other);
    }
}
