package wirekettle.core.record;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import wirekettle.core.value.Column;

/**
 * What a caller sends: a nested record.
 *
 * @param columns its fields; a name is a place, {@code crates/no}
 * @param lists the places that repeat, as {@code crates}: arrays in JSON
 * @param samples documents to build the flow with, as JSON
 */
@JsonInclude(JsonInclude.Include.NON_EMPTY)
public record InputShape(List<Column> columns, List<String> lists, List<String> samples) {
    /** Fills in what may be left out. */
    public InputShape {
        columns = columns == null ? List.of() : List.copyOf(columns);
        lists = lists == null ? List.of() : List.copyOf(lists);
        samples = samples == null ? List.of() : List.copyOf(samples);
    }
}
