package wirekettle.core.record;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.math.BigDecimal;
import java.util.Map;
import wirekettle.core.value.Column;
import wirekettle.core.value.JsonName;
import wirekettle.core.value.ScalarType;

/** A document a caller could send. */
public final class InputSample {
    private InputSample() {}

    /**
     * Writes a sample with one item in each list.
     *
     * @param values the texts of fields by their places; those without one are left out
     */
    public static String of(InputShape input, Map<String, String> values) {
        ObjectNode document = JsonNodeFactory.instance.objectNode();
        for (Column column : input.columns()) {
            if (values.get(column.name()) != null) {
                put(document, column, input, values.get(column.name()));
            }
        }
        return document.toPrettyString();
    }

    private static void put(ObjectNode document, Column column, InputShape input, String value) {
        ObjectNode at = document;
        String place = "";
        String[] steps = column.name().split("/");
        for (int i = 0; i < steps.length - 1; i++) {
            place = place.isEmpty() ? steps[i] : place + "/" + steps[i];
            String member = JsonName.member(steps[i]);
            if (!input.lists().contains(place)) {
                at = at.get(member) instanceof ObjectNode known ? known : at.putObject(member);
            } else if (at.get(member) instanceof ArrayNode known) {
                at = (ObjectNode) known.get(0);
            } else {
                at = at.putArray(member).addObject();
            }
        }
        String member = JsonName.member(steps[steps.length - 1]);
        if (input.lists().contains(column.name())) {
            at.putArray(member).add(leaf(column, value));
        } else {
            at.set(member, leaf(column, value));
        }
    }

    private static JsonNode leaf(Column column, String value) {
        try {
            ScalarType type = column.type();
            if (type == ScalarType.BOOLEAN) {
                return JsonNodeFactory.instance.booleanNode(value.equals("true") || value.equals("1"));
            }
            if (type == ScalarType.INTEGER || type == ScalarType.DECIMAL) {
                return JsonNodeFactory.instance.numberNode(new BigDecimal(value));
            }
        } catch (NumberFormatException e) {
            // shown as it is
        }
        return JsonNodeFactory.instance.textNode(value);
    }
}
