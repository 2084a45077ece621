package wirekettle.core.contract.openapi;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * An operation described by hand because it has no description: what is typed in becomes an OpenAPI document of our
 * own, the
 * shapes of body and reply learned from a sample of each.
 *
 * @param title the service's name
 * @param address where it is
 * @param name the operation's name
 * @param method the HTTP method
 * @param path its path behind the address, with places in braces
 * @param query the names of query parameters; one that ends in {@code *} must be given
 * @param headers the names of headers, the same way
 * @param bodySample a sample of the request's body as JSON or XML, null or empty for none
 * @param replySample a sample of the reply, the same way
 */
public record DescribedByHand(
        String title,
        String address,
        String name,
        String method,
        String path,
        List<String> query,
        List<String> headers,
        String bodySample,
        String replySample) {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Pattern PLACE = Pattern.compile("\\{([^{}]+)}");
    private static final List<String> METHODS = List.of("GET", "POST", "PUT", "PATCH", "DELETE");

    /** What cannot be described this way, and why. */
    public static final class Wrong extends Exception {
        Wrong(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * Returns the document.
     *
     * @param before a document made before that this operation is added to, null for a new one
     * @throws Wrong when something typed in cannot be used
     */
    public byte[] document(byte[] before) throws Wrong {
        String verb = method == null ? "" : method.strip().toUpperCase(Locale.ROOT);
        if (!METHODS.contains(verb)) {
            throw new Wrong("the method is one of " + String.join(", ", METHODS));
        }
        if (path == null || !path.startsWith("/") || path.contains("?") || path.contains(" ")) {
            throw new Wrong(
                    "the path begins with a slash and has neither spaces nor a question mark, as /rates/{from}");
        }
        if (name == null || name.isBlank()) {
            throw new Wrong("the operation needs a name");
        }
        try {
            ObjectNode document = before == null ? fresh() : (ObjectNode) JSON.readTree(before);
            ObjectNode item = document.withObjectProperty("paths").withObjectProperty(path);
            if (item.has(verb.toLowerCase(Locale.ROOT))) {
                throw new Wrong(verb + " " + path + " is described already");
            }
            item.set(verb.toLowerCase(Locale.ROOT), operation());
            return JSON.writerWithDefaultPrettyPrinter().writeValueAsBytes(document);
        } catch (IOException e) {
            throw new Wrong("the description made before cannot be read: " + e.getMessage());
        }
    }

    private ObjectNode fresh() throws Wrong {
        if (title == null || title.isBlank()) {
            throw new Wrong("the service needs a name");
        }
        if (address == null || !address.matches("(?i)https?://.+")) {
            throw new Wrong("the address begins with http:// or https://");
        }
        ObjectNode document = JSON.createObjectNode().put("openapi", "3.1.0");
        document.putObject("info")
                .put("title", title.strip())
                .put("version", "1")
                .put("description", "Described by hand.");
        document.putArray("servers").addObject().put("url", address.strip());
        return document;
    }

    private ObjectNode operation() throws Wrong {
        ObjectNode operation = JSON.createObjectNode().put("operationId", name.strip());
        ArrayNode parameters = operation.putArray("parameters");
        Matcher places = PLACE.matcher(path);
        while (places.find()) {
            parameter(parameters, places.group(1) + "*", "path");
        }
        for (String each : query == null ? List.<String>of() : query) {
            parameter(parameters, each, "query");
        }
        for (String each : headers == null ? List.<String>of() : headers) {
            parameter(parameters, each, "header");
        }
        if (bodySample != null && !bodySample.isBlank()) {
            ObjectNode body = operation.putObject("requestBody").put("required", true);
            content(body, bodySample, "body sample");
        }
        ObjectNode reply = operation.putObject("responses").putObject("200").put("description", "the reply");
        if (replySample != null && !replySample.isBlank()) {
            content(reply, replySample, "reply sample");
        }
        return operation;
    }

    private static void parameter(ArrayNode parameters, String given, String in) {
        String plain = given.strip();
        boolean required = plain.endsWith("*");
        String parameter = required ? plain.substring(0, plain.length() - 1) : plain;
        if (!parameter.isEmpty()) {
            parameters
                    .addObject()
                    .put("name", parameter)
                    .put("in", in)
                    .put("required", required)
                    .putObject("schema")
                    .put("type", "string");
        }
    }

    private static void content(ObjectNode holder, String sample, String what) throws Wrong {
        String text = sample.strip();
        if (text.startsWith("<")) {
            holder.putObject("content").putObject("application/xml").set("schema", SampleShape.ofXml(text, what));
            return;
        }
        try {
            JsonNode read = JSON.readTree(text);
            holder.putObject("content").putObject("application/json").set("schema", SampleShape.of(List.of(read)));
        } catch (JsonProcessingException e) {
            var at = e.getLocation();
            throw new Wrong("the " + what + " is neither JSON nor XML at line " + at.getLineNr() + " column "
                    + at.getColumnNr() + ": " + e.getOriginalMessage());
        }
    }

    /** Returns the names of the places in a path. */
    public static List<String> places(String path) {
        List<String> names = new ArrayList<>();
        Matcher places = PLACE.matcher(path == null ? "" : path);
        while (places.find()) {
            names.add(places.group(1));
        }
        return names;
    }
}
