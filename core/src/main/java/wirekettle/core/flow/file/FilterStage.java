package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * Goes on with records for which a condition holds; others end as left out.
 *
 * @param name what those left out are counted under, or null
 * @param when XPath 3.1; records for which it is true go on
 * @param lane what happens when the condition cannot be decided, or null
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record FilterStage(String id, String name, String when, Lane lane) implements Stage {
    @Override
    public FilterStage failing(Lane other) {
        return new FilterStage(id, name, when, other);
    }
}
