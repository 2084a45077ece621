package wirekettle.core.flow.file;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.function.UnaryOperator;

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
    public Stage mapped(UnaryOperator<Stage> change) {
        return new FilterStage(id, name, when, Lane.mapped(lane, change));
    }
}
