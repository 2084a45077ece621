package wirekettle.core.record;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.List;
import org.testng.annotations.Test;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** Nested records as JSON Schema, and back. */
public class JsonSchemaTest {
    private static final ObjectMapper JSON = new ObjectMapper();

    private static Column column(String name, String label, ScalarType type, boolean required) {
        return new Column(name, label, type, null, required);
    }

    @Test
    public void aRecordIsWrittenAndReadBackAsItWas() throws Exception {
        InputShape shape = new InputShape(
                List.of(
                        column("loan", "Loan number", ScalarType.STRING, true),
                        column("borrower/name", "name", ScalarType.STRING, true),
                        column("borrower/since", "since", ScalarType.DATE, false),
                        column("crates/no", "no", ScalarType.INTEGER, false),
                        column("crates/kilograms", "kilograms", ScalarType.DECIMAL, false),
                        column("crates/fragile", "fragile", ScalarType.BOOLEAN, false),
                        column("tags", "tags", ScalarType.STRING, false),
                        column("at", "at", ScalarType.DATETIME, false),
                        column("pickup_x0020_time", "pickup time", ScalarType.TIME, false)),
                List.of("crates", "tags"),
                null);
        JsonNode schema = JsonSchema.of(shape.columns(), shape.lists(), true);
        assertEquals(schema.at("/properties/crates/items/properties/no/type").asText(), "integer");
        assertEquals(schema.at("/properties/pickup time/format").asText(), "time");
        assertEquals(schema.get("required").toString(), "[\"loan\",\"borrower\"]");
        assertEquals(schema.at("/properties/borrower/required").toString(), "[\"name\"]");
        assertFalse(schema.get("additionalProperties").asBoolean(true));
        assertEquals(JsonSchema.read(schema), shape);
    }

    @Test
    public void referencesAndWaysAreFollowed() throws Exception {
        JsonNode schema = JSON.readTree(
                """
                {"$schema": "https://json-schema.org/draft/2020-12/schema", "allOf": [{"$ref": "#/$defs/Base"}],
                 "properties": {"weight": {"type": ["null", "number"]},
                   "party": {"oneOf": [{"type": "null"}, {"$ref": "#/$defs/Party"}, {"type": "string"}]}},
                 "$defs": {"Base": {"required": ["loan"], "properties": {"loan": {"type": "string", "title": "Loan"}}},
                   "Party": {"properties": {"name": {"type": "string"}}}}}
                """);
        assertTrue(JsonSchema.looksLikeOne(schema));
        assertFalse(JsonSchema.looksLikeOne(JSON.readTree("{\"loan\": \"HC-1\"}")));
        assertEquals(
                JsonSchema.read(schema).columns(),
                List.of(
                        column("weight", "weight", ScalarType.DECIMAL, false),
                        column("party/name", "name", ScalarType.STRING, false),
                        column("loan", "Loan", ScalarType.STRING, true)));
    }

    @Test
    public void whatIsNoRecordIsSaid() throws Exception {
        for (String each : List.of(
                "{\"type\": \"string\"}",
                "{\"$ref\": \"#/$defs/Gone\"}",
                "{\"properties\": {\"a\": {\"type\": \"array\", \"items\": {\"type\": \"array\"}}}}",
                "{\"$ref\": \"#/$defs/Me\", \"$defs\": {\"Me\": {\"properties\": {\"me\": {\"$ref\": \"#/$defs/Me\"}}}}}")) {
            JsonNode schema = JSON.readTree(each);
            expectThrows(JsonSchema.Unusable.class, () -> JsonSchema.read(schema));
        }
    }
}
