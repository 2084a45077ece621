package wirekettle.core.value;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.JsonToken;
import java.io.IOException;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * Reads JSON (RFC 8259) into a {@link Node}: members become children, an array repeats the element of its member, an
 * item without a member is called {@code item}, null is nil.
 */
public final class JsonReader {
    /** What an item of an array that is no member's value is called. */
    public static final String ITEM = "item";

    private static final JsonFactory FACTORY = new JsonFactory();

    private JsonReader() {}

    /**
     * Reads a whole document.
     *
     * @param root the name of the element it becomes
     * @param document the name used in problems
     * @throws XmlProblem when it is no JSON, with its place, or passes a limit
     */
    public static Node read(byte[] json, Name root, String document, XmlLimits limits) throws XmlProblem {
        try (JsonParser parser = FACTORY.createParser(json)) {
            JsonToken first = parser.nextToken();
            if (first == null) {
                throw new XmlProblem("not-json", "there is nothing in it", document, 1, 1);
            }
            int[] count = {0};
            Node.Builder made = Node.build(root);
            if (first == JsonToken.START_ARRAY) {
                items(parser, ITEM, made, document, limits, 1, count);
            } else {
                fill(made, parser, document, limits, 1, count);
            }
            if (parser.nextToken() != null) {
                throw problem(parser, "not-json", "something follows the end of the document", document);
            }
            return made.done();
        } catch (JsonProcessingException e) {
            var at = e.getLocation();
            throw new XmlProblem(
                    "not-json",
                    e.getOriginalMessage(),
                    document,
                    at == null ? 0 : at.getLineNr(),
                    at == null ? 0 : at.getColumnNr());
        } catch (IOException e) {
            throw new IllegalStateException("memory cannot fail to be read", e);
        }
    }

    private static void fill(
            Node.Builder made, JsonParser parser, String document, XmlLimits limits, int depth, int[] count)
            throws IOException, XmlProblem {
        if (depth > limits.maxDepth()) {
            throw problem(parser, "too-deep", "objects are nested deeper than " + limits.maxDepth(), document);
        }
        if (++count[0] > limits.maxElements()) {
            throw problem(
                    parser, "too-many-elements", "there are more than " + limits.maxElements() + " values", document);
        }
        switch (parser.currentToken()) {
            case START_OBJECT -> {
                while (parser.nextToken() != JsonToken.END_OBJECT) {
                    String name = JsonName.element(parser.currentName());
                    if (parser.nextToken() == JsonToken.START_ARRAY) {
                        items(parser, name, made, document, limits, depth + 1, count);
                    } else {
                        Node.Builder child = Node.build(Name.of(name));
                        fill(child, parser, document, limits, depth + 1, count);
                        made.add(child.done());
                    }
                }
            }
            case VALUE_NULL -> made.nil();
            case VALUE_NUMBER_INT -> made.text(parser.getText());
            case VALUE_NUMBER_FLOAT -> {
                String text = parser.getText();
                made.text(text.matches("-?[0-9.]+") ? text : plain(parser, text));
            }
            default -> made.text(parser.getText());
        }
    }

    private static String plain(JsonParser parser, String text) throws IOException {
        // 1e900000 would be written out in full
        return text.length() > 20 || Math.abs(parser.getDecimalValue().scale()) > 400
                ? text
                : parser.getDecimalValue().toPlainString();
    }

    private static void items(
            JsonParser parser,
            String name,
            Node.Builder parent,
            String document,
            XmlLimits limits,
            int depth,
            int[] count)
            throws IOException, XmlProblem {
        while (parser.nextToken() != JsonToken.END_ARRAY) {
            Node.Builder item = Node.build(Name.of(name));
            if (parser.currentToken() == JsonToken.START_ARRAY) {
                if (depth > limits.maxDepth()) {
                    throw problem(parser, "too-deep", "arrays are nested deeper than " + limits.maxDepth(), document);
                }
                items(parser, ITEM, item, document, limits, depth + 1, count);
            } else {
                fill(item, parser, document, limits, depth, count);
            }
            parent.add(item.done());
        }
    }

    private static XmlProblem problem(JsonParser parser, String code, String message, String document) {
        var at = parser.currentLocation();
        return new XmlProblem(code, message, document, at.getLineNr(), at.getColumnNr());
    }
}
