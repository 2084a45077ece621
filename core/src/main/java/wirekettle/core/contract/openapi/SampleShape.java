package wirekettle.core.contract.openapi;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Learns a shape, as JSON Schema, from samples of it: what all samples have together, nothing required. */
final class SampleShape {
    private static final ObjectMapper JSON = new ObjectMapper();

    private SampleShape() {}

    /** Returns the shape of JSON values that stand in one place. */
    static ObjectNode of(List<JsonNode> samples) {
        ObjectNode shape = JSON.createObjectNode();
        List<JsonNode> real = samples.stream().filter(s -> !s.isNull()).toList();
        boolean nullable = real.size() < samples.size();
        if (!real.isEmpty() && real.stream().allMatch(JsonNode::isObject)) {
            Map<String, List<JsonNode>> members = new LinkedHashMap<>();
            for (JsonNode sample : real) {
                sample.fields().forEachRemaining(e -> members.computeIfAbsent(e.getKey(), k -> new ArrayList<>())
                        .add(e.getValue()));
            }
            shape.put("type", "object");
            ObjectNode properties = shape.putObject("properties");
            members.forEach((name, values) -> properties.set(name, of(values)));
        } else if (!real.isEmpty() && real.stream().allMatch(JsonNode::isArray)) {
            List<JsonNode> items = new ArrayList<>();
            real.forEach(array -> array.forEach(items::add));
            shape.put("type", "array").set("items", of(items));
        } else if (!real.isEmpty() && real.stream().noneMatch(JsonNode::isContainerNode)) {
            scalar(shape, real);
        }
        if (nullable) {
            shape.put("nullable", true);
        }
        return shape;
    }

    private static void scalar(ObjectNode shape, List<JsonNode> values) {
        if (values.stream().allMatch(JsonNode::isBoolean)) {
            shape.put("type", "boolean");
        } else if (values.stream().allMatch(JsonNode::isIntegralNumber)) {
            shape.put("type", "integer");
        } else if (values.stream().allMatch(JsonNode::isNumber)) {
            shape.put("type", "number");
        } else {
            text(shape, values.stream().map(JsonNode::asText).toList());
        }
    }

    private static void text(ObjectNode shape, List<String> values) {
        shape.put("type", "string");
        if (values.stream().allMatch(v -> v.matches("\\d{4}-\\d{2}-\\d{2}"))) {
            shape.put("format", "date");
        } else if (values.stream().allMatch(v -> v.matches("\\d{4}-\\d{2}-\\d{2}T[\\d:.]+(Z|[+-]\\d{2}:\\d{2})"))) {
            shape.put("format", "date-time");
        }
    }

    /** Returns the shape of an XML sample; its root's name is kept as the name the document begins with. */
    static ObjectNode ofXml(String sample, String what) throws DescribedByHand.Wrong {
        try {
            Node root = NodeReader.read(
                    new ByteArrayInputStream(sample.getBytes(StandardCharsets.UTF_8)), what, XmlLimits.MESSAGES);
            ObjectNode shape = element(List.of(root));
            ObjectNode xml = shape.putObject("xml").put("name", root.name().local());
            if (!root.name().namespace().isEmpty()) {
                xml.put("namespace", root.name().namespace());
            }
            return shape;
        } catch (XmlProblem e) {
            throw new DescribedByHand.Wrong("the " + what + " cannot be read at line " + e.line() + " column "
                    + e.column() + ": " + e.getMessage());
        }
    }

    private static ObjectNode element(List<Node> samples) {
        ObjectNode shape = JSON.createObjectNode();
        Map<String, List<Node>> children = new LinkedHashMap<>();
        Map<String, Boolean> repeated = new LinkedHashMap<>();
        Map<String, List<String>> attributes = new LinkedHashMap<>();
        for (Node sample : samples) {
            Map<String, Integer> counts = new LinkedHashMap<>();
            for (Node child : sample.children()) {
                String name = child.name().local();
                children.computeIfAbsent(name, k -> new ArrayList<>()).add(child);
                repeated.merge(name, counts.merge(name, 1, Integer::sum) > 1, Boolean::logicalOr);
            }
            sample.attributes().forEach(a -> attributes
                    .computeIfAbsent(a.name().local(), k -> new ArrayList<>())
                    .add(a.text()));
        }
        if (children.isEmpty() && attributes.isEmpty()) {
            text(shape, samples.stream().map(Node::text).toList());
            return shape;
        }
        shape.put("type", "object");
        ObjectNode properties = shape.putObject("properties");
        children.forEach((name, nodes) -> {
            ObjectNode child = element(nodes);
            if (Boolean.TRUE.equals(repeated.get(name))) {
                properties.putObject(name).put("type", "array").set("items", child);
            } else {
                properties.set(name, child);
            }
        });
        attributes.forEach((name, values) -> {
            ObjectNode attribute = properties.putObject(name);
            text(attribute, values);
            attribute.putObject("xml").put("attribute", true);
        });
        if (children.isEmpty()) {
            // text beside attributes has no place in JSON Schema; this says that the element holds it itself
            shape.putObject("xml").put("x-text", true);
        }
        return shape;
    }
}
