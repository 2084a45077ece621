package wirekettle.server.flows;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import io.quarkus.smallrye.openapi.OpenApiFilter;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.eclipse.microprofile.openapi.OASFactory;
import org.eclipse.microprofile.openapi.OASFilter;
import org.eclipse.microprofile.openapi.models.OpenAPI;
import org.eclipse.microprofile.openapi.models.media.Schema;

/**
 * Says in the OpenAPI document of flow files what their own schema says, docs/flow-file.schema.json: each of its named
 * definitions is a schema there, in the place of what is read from the classes.
 */
@OpenApiFilter(OpenApiFilter.RunStage.BUILD)
public class FlowFileSchemas implements OASFilter {
    private static final String HERE = "#/$defs/";
    private static final String THERE = "#/components/schemas/";
    /** Small ones that say only how a text looks stand where they are used. */
    private static final Set<String> INLINE = Set.of("id", "variable", "wire");

    @Override
    public void filterOpenAPI(OpenAPI document) {
        ObjectNode whole = read();
        JsonNode named = whole.remove("$defs");
        whole.remove(List.of("$schema", "title"));
        document.getComponents().addSchema("FlowFile", schema(whole, named));
        named.properties().forEach(each -> {
            if (!INLINE.contains(each.getKey())) {
                document.getComponents().addSchema(each.getKey(), schema(each.getValue(), named));
            }
        });
    }

    private static ObjectNode read() {
        try (InputStream in = FlowFileSchemas.class.getResourceAsStream("/wirekettle/flow-file.schema.json")) {
            return (ObjectNode) new ObjectMapper().readTree(in);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static Schema schema(JsonNode said, JsonNode named) {
        String ref = said.path("$ref").asText();
        if (ref.startsWith(HERE)) {
            String name = ref.substring(HERE.length());
            return INLINE.contains(name)
                    ? schema(named.get(name), named)
                    : OASFactory.createSchema().ref(THERE + name);
        }
        Schema made = OASFactory.createSchema();
        said.properties().forEach(each -> put(made, each.getKey(), each.getValue(), named));
        return made;
    }

    private static void put(Schema made, String keyword, JsonNode value, JsonNode named) {
        switch (keyword) {
            case "type" -> made.addType(Schema.SchemaType.valueOf(value.asText().toUpperCase(java.util.Locale.ROOT)));
            case "properties" -> value.properties()
                    .forEach(each -> made.addProperty(each.getKey(), schema(each.getValue(), named)));
            case "required" -> value.forEach(each -> made.addRequired(each.asText()));
            case "items" -> made.setItems(schema(value, named));
            case "oneOf" -> made.setOneOf(all(value, named));
            case "not" -> made.setNot(schema(value, named));
            case "enum" -> value.forEach(each -> made.addEnumeration(each.asText()));
            case "const" -> made.setConstValue(
                    value.isTextual() ? value.asText() : value.isInt() ? value.asInt() : value.asBoolean());
            case "pattern" -> made.setPattern(value.asText());
            case "minLength" -> made.setMinLength(value.asInt());
            case "maxLength" -> made.setMaxLength(value.asInt());
            case "minItems" -> made.setMinItems(value.asInt());
            case "minimum" -> made.setMinimum(value.decimalValue());
            case "maximum" -> made.setMaximum(value.decimalValue());
            case "additionalProperties" -> made.setAdditionalPropertiesSchema(
                    OASFactory.createSchema().booleanSchema(value.asBoolean()));
            default -> throw new IllegalStateException(
                    "the flow file's schema uses a word that is not carried over: " + keyword);
        }
    }

    private static List<Schema> all(JsonNode said, JsonNode named) {
        List<Schema> made = new ArrayList<>();
        said.forEach(each -> made.add(schema(each, named)));
        return made;
    }
}
