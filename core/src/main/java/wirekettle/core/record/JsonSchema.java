package wirekettle.core.record;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.ScalarType;

/** Nested records as JSON Schema (draft 2020-12), and what such schemas say of nested records. */
public final class JsonSchema {
    /** The dialect that is written. */
    public static final String DIALECT = "https://json-schema.org/draft/2020-12/schema";

    private static final int DEEPEST = 24;
    private static final int MOST_COLUMNS = 2_000;

    /** A schema that does not describe a record. */
    public static final class Unusable extends Exception {
        Unusable(String message) {
            super(message);
        }
    }

    private final JsonNode document;
    private final List<Column> columns = new ArrayList<>();
    private final List<String> lists = new ArrayList<>();

    private JsonSchema(JsonNode document) {
        this.document = document;
    }

    /**
     * Returns the schema of a nested record.
     *
     * @param columns its fields; a name is a place
     * @param lists the places that repeat
     * @param closed whether other members are refused
     */
    public static ObjectNode of(List<Column> columns, Collection<String> lists, boolean closed) {
        return object(PlaceTree.of(columns, lists), closed);
    }

    private static ObjectNode object(PlaceTree level, boolean closed) {
        ObjectNode schema = JsonNodeFactory.instance.objectNode().put("type", "object");
        ObjectNode properties = schema.putObject("properties");
        ArrayNode required = JsonNodeFactory.instance.arrayNode();
        level.children().forEach((name, field) -> {
            ObjectNode one = field.column() == null ? object(field, closed) : scalar(field.column());
            if (field.repeats()) {
                ObjectNode array = JsonNodeFactory.instance.objectNode().put("type", "array");
                array.set("items", one);
                one = array;
            } else if (!field.required().isEmpty()) {
                required.add(JsonName.member(name));
            }
            properties.set(JsonName.member(name), one);
        });
        if (!required.isEmpty()) {
            schema.set("required", required);
        }
        if (closed) {
            schema.put("additionalProperties", false);
        }
        return schema;
    }

    /** Returns the schema of a field without fields of its own. */
    public static ObjectNode scalar(Column column) {
        ObjectNode schema = JsonNodeFactory.instance.objectNode();
        switch (column.type()) {
            case INTEGER -> schema.put("type", "integer");
            case DECIMAL -> schema.put("type", "number");
            case BOOLEAN -> schema.put("type", "boolean");
            case DATE -> schema.put("type", "string").put("format", "date");
            case DATETIME -> schema.put("type", "string").put("format", "date-time");
            case TIME -> schema.put("type", "string").put("format", "time");
            default -> schema.put("type", "string");
        }
        if (column.required() && column.type() == ScalarType.STRING) {
            schema.put("minLength", 1);
        }
        String label = column.label();
        String member = JsonName.member(column.name().substring(column.name().lastIndexOf('/') + 1));
        if (label != null && !label.isBlank() && !label.equals(member)) {
            schema.put("title", label);
        }
        return schema;
    }

    /** Tells whether a document is a schema rather than a sample. */
    public static boolean looksLikeOne(JsonNode document) {
        return document.isObject()
                && (document.has("$schema")
                        || document.path("type").asText().equals("object")
                                && document.path("properties").isObject());
    }

    /**
     * Reads what a schema says of a nested record: objects, arrays, types and what is required, behind references
     * within it ({@code $ref}) and {@code allOf}. Of several ways the first counts.
     *
     * @throws Unusable when it describes no object, nests a list in a list, or is larger than can be worked with
     */
    public static InputShape read(JsonNode document) throws Unusable {
        JsonSchema made = new JsonSchema(document);
        made.below(document, "", true, 0);
        if (made.columns.isEmpty()) {
            throw new Unusable("the schema describes no object with properties");
        }
        return new InputShape(made.columns, made.lists, null);
    }

    private void below(JsonNode given, String place, boolean needed, int depth) throws Unusable {
        for (JsonNode schema : parts(given, new HashSet<>())) {
            Set<String> required = new HashSet<>();
            schema.path("required").forEach(each -> required.add(each.asText()));
            var members = schema.path("properties").fields();
            while (members.hasNext()) {
                var member = members.next();
                String name = JsonName.element(member.getKey());
                String here = place.isEmpty() ? name : place + "/" + name;
                boolean must = needed && required.contains(member.getKey());
                field(member.getKey(), member.getValue(), here, must, depth + 1);
            }
        }
    }

    private void field(String member, JsonNode given, String place, boolean must, int depth) throws Unusable {
        if (depth > DEEPEST) {
            throw new Unusable("“" + place + "” is nested deeper than " + DEEPEST + ", or in itself");
        }
        if (columns.size() >= MOST_COLUMNS) {
            throw new Unusable("it has more than " + MOST_COLUMNS + " fields");
        }
        JsonNode schema = given;
        if (type(schema).equals("array")) {
            lists.add(place);
            schema = first(schema, "items");
            if (type(schema).equals("array")) {
                throw new Unusable("“" + place + "” is a list of lists");
            }
        }
        if (type(schema).equals("object")) {
            below(schema, place, must, depth);
        } else {
            columns.add(new Column(place, label(given, member), scalar(schema), null, must));
        }
    }

    private String label(JsonNode given, String member) {
        String title = given.path("title").asText();
        return title.isBlank() ? member : title;
    }

    private ScalarType scalar(JsonNode schema) {
        String format = first(schema, "format").asText();
        return switch (type(schema)) {
            case "integer" -> ScalarType.INTEGER;
            case "number" -> ScalarType.DECIMAL;
            case "boolean" -> ScalarType.BOOLEAN;
            default -> switch (format) {
                case "date" -> ScalarType.DATE;
                case "date-time" -> ScalarType.DATETIME;
                case "time" -> ScalarType.TIME;
                default -> ScalarType.STRING;
            };
        };
    }

    /** A type may be one of several, null among them. */
    private String type(JsonNode schema) {
        JsonNode given = first(schema, "type");
        if (given.isArray()) {
            for (JsonNode each : given) {
                if (!each.asText().equals("null")) {
                    return each.asText();
                }
            }
        }
        if (given.isTextual()) {
            return given.asText();
        }
        return first(schema, "properties").isObject()
                ? "object"
                : first(schema, "items").isObject() ? "array" : "string";
    }

    private JsonNode first(JsonNode schema, String keyword) {
        for (JsonNode each : parts(schema, new HashSet<>())) {
            if (each.has(keyword)) {
                return each.get(keyword);
            }
        }
        return JsonNodeFactory.instance.missingNode();
    }

    /** Returns a schema with what it refers to and is made of; of {@code anyOf} and {@code oneOf} the first that is not null. */
    private List<JsonNode> parts(JsonNode schema, Set<String> met) {
        List<JsonNode> all = new ArrayList<>();
        all.add(schema);
        String reference = schema.path("$ref").asText();
        if (reference.startsWith("#") && met.add(reference)) {
            all.addAll(parts(document.at(reference.substring(1)), met));
        }
        for (JsonNode each : schema.path("allOf")) {
            all.addAll(parts(each, met));
        }
        for (String choice : List.of("anyOf", "oneOf")) {
            for (JsonNode each : schema.path(choice)) {
                if (!each.path("type").asText().equals("null")) {
                    all.addAll(parts(each, met));
                    break;
                }
            }
        }
        return all;
    }
}
