package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import wirekettle.core.fill.Fill;
import wirekettle.core.record.DocumentPlan;
import wirekettle.core.value.Column;
import wirekettle.core.value.DocumentForm;

/**
 * Says what a caller of the flow gets.
 *
 * @param status a path, a number or XPath 3.1 whose text is the HTTP status; null for 200
 * @param rows the path of the element that becomes a row; empty for one record
 * @param columns the fields of the answer; in a document a name is a place
 * @param fills what fills them
 * @param document how it is written, null for JSON
 * @param groups the levels that repeat
 * @param headers HTTP headers of its own
 * @param lane what happens when it fails, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record AnswerStage(
        String id,
        String status,
        String rows,
        List<Column> columns,
        List<Fill> fills,
        DocumentForm document,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<DocumentPlan.Group> groups,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<NamedText> headers,
        Lane lane)
        implements Stage, MakesRecord {
    /** Fills in what may be left out. */
    public AnswerStage {
        columns = columns == null ? List.of() : List.copyOf(columns);
        fills = fills == null ? List.of() : List.copyOf(fills);
        document = document == null ? DocumentForm.JSON : document;
        groups = groups == null ? List.of() : List.copyOf(groups);
        headers = headers == null ? List.of() : List.copyOf(headers);
    }

    /** An answer without headers of its own. */
    public static AnswerStage of(String id, String status, List<Column> columns, List<Fill> fills) {
        return new AnswerStage(id, status, "", columns, fills, null, null, null, null);
    }

    @Override
    public AnswerStage filled(List<Fill> others) {
        return new AnswerStage(id, status, rows, columns, others, document, groups, headers, lane);
    }

    @Override
    public AnswerStage failing(Lane other) {
        return new AnswerStage(id, status, rows, columns, fills, document, groups, headers, other);
    }
}
