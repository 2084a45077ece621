package wirekettle.server.serve;

import com.fasterxml.jackson.databind.JsonNode;
import jakarta.ws.rs.POST;
import jakarta.ws.rs.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.record.InputSample;
import wirekettle.core.record.InputShape;
import wirekettle.core.record.JsonSchema;
import wirekettle.core.record.ScalarCheck;
import wirekettle.core.schema.ValueRule;
import wirekettle.core.value.Column;
import wirekettle.server.signin.Needs;
import wirekettle.server.signin.Right;
import wirekettle.server.web.Problem;

/** What a schema says of what callers send. */
@Path("/api")
public class InputShapeResource {
    /** Reads a JSON Schema: its fields, and a sample of what it describes. */
    @POST
    @Needs(Right.BUILD)
    @Path("input-shapes")
    public InputShape of(JsonNode schema) {
        if (schema == null || !JsonSchema.looksLikeOne(schema)) {
            throw new Problem(422, "no-schema", "This is no JSON Schema of an object.");
        }
        try {
            InputShape shape = JsonSchema.read(schema);
            Map<String, String> values = new LinkedHashMap<>();
            for (Column column : shape.columns()) {
                ValueRule rule = ScalarCheck.rule(column.type());
                values.put(column.name(), rule == null ? "text" : rule.example());
            }
            return new InputShape(shape.columns(), shape.lists(), List.of(InputSample.of(shape, values)));
        } catch (JsonSchema.Unusable e) {
            throw new Problem(422, "no-schema", "This schema cannot be used: " + e.getMessage() + ".");
        }
    }
}
