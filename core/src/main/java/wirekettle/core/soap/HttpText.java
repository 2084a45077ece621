package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.net.URLDecoder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.HttpBinding.Described;
import wirekettle.core.contract.HttpBinding.Place;
import wirekettle.core.contract.openapi.OpenApiReader;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * A request of an operation described for HTTP as text: method and target, headers a line each, an empty line, the
 * body.
 *
 * @param method the HTTP method
 * @param target path and query, to be put behind the port's address
 * @param headers the headers, in order
 * @param body the content, empty for none
 */
public record HttpText(String method, String target, Map<String, String> headers, String body) {
    private static final Pattern FIRST = Pattern.compile("([A-Z]+)\\s+(\\S*)(?:\\s+HTTP/[\\d.]+)?\\s*");

    /** Tells whether a text is meant as a request of this kind. */
    public static boolean is(Offered offered, String text) {
        HttpBinding http = offered.operation().http();
        return http != null && http.described() != null && !text.stripLeading().startsWith("<");
    }

    /** Returns the request a message becomes. */
    public static HttpText of(Contract contract, Offered offered, Node message, boolean indented) {
        HttpBinding http = offered.operation().http();
        Described described = http.described();
        String path = http.location();
        StringBuilder query = new StringBuilder();
        StringBuilder cookies = new StringBuilder();
        Map<String, String> headers = new LinkedHashMap<>();
        for (Place place : described.places()) {
            for (Node value : message.children()) {
                if (!value.name().local().equals(place.field()) || value.nil()) {
                    continue;
                }
                switch (place.in()) {
                    case "path" -> path = path.replace("{" + place.name() + "}", encoded(value.text()));
                    case "header" -> headers.merge(place.name(), value.text(), (a, b) -> a + "," + b);
                    case "cookie" -> cookies.append(cookies.isEmpty() ? "" : "; ")
                            .append(place.name())
                            .append('=')
                            .append(encoded(value.text()));
                    default -> query.append(query.isEmpty() ? "?" : "&")
                            .append(encoded(place.name()))
                            .append('=')
                            .append(encoded(value.text()));
                }
            }
        }
        if (!cookies.isEmpty()) {
            headers.put("Cookie", cookies.toString());
        }
        String body = "";
        List<Node> bodies = message.children().stream()
                .filter(c -> c.name().local().equals(OpenApiReader.BODY))
                .toList();
        if (described.bodyType() != null && !bodies.isEmpty()) {
            headers.put("Content-Type", described.bodyType());
            body = body(contract, offered, described, bodies, indented);
        }
        return new HttpText(http.verb(), path + query, headers, body);
    }

    private static SheetField bodyField(Contract contract, Offered offered) {
        ElementDecl root = offered.operation().input().body().get(0);
        return JsonWriter.child(contract.sheet(root), Name.of(OpenApiReader.BODY));
    }

    private static String body(
            Contract contract, Offered offered, Described described, List<Node> bodies, boolean indented) {
        if (Described.json(described.bodyType())) {
            SheetField field = bodyField(contract, offered);
            byte[] json = field != null && field.max() != 1
                    ? JsonWriter.writeAll(bodies, field, indented)
                    : JsonWriter.write(bodies.get(0), field, indented);
            return new String(json, StandardCharsets.UTF_8);
        }
        if (Described.xml(described.bodyType())) {
            return NodeWriter.write(within(bodies.get(0), described.bodyRoot()), indented);
        }
        if (described.bodyType().contains("form-urlencoded")) {
            StringBuilder pairs = new StringBuilder();
            bodies.get(0).children().forEach(value -> pairs.append(pairs.isEmpty() ? "" : "&")
                    .append(encoded(value.name().local()))
                    .append('=')
                    .append(encoded(value.text())));
            return pairs.toString();
        }
        return bodies.get(0).text();
    }

    /** Returns a tree under another name, all its elements in that name's namespace. */
    static Node within(Node node, Name name) {
        Node.Builder made = Node.build(name);
        node.attributes().forEach(attribute -> made.attribute(attribute.name(), attribute.text()));
        node.children()
                .forEach(child -> made.add(
                        within(child, new Name(name.namespace(), child.name().local()))));
        if (node.nil()) {
            made.nil();
        }
        return made.text(node.children().isEmpty() ? node.text() : "").done();
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    private static String decoded(String text) {
        try {
            return URLDecoder.decode(text, StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return text;
        }
    }

    /** Reads a text; throws when it does not begin with a method and a target. */
    public static HttpText parse(String text) throws XmlProblem {
        String[] lines = text.strip().split("\\R", -1);
        Matcher first = FIRST.matcher(lines[0]);
        if (!first.matches()) {
            throw new XmlProblem(
                    "no-request", "a request begins with its method and path, as GET /rates?from=A", "request", 1, 1);
        }
        Map<String, String> headers = new LinkedHashMap<>();
        int at = 1;
        for (; at < lines.length && !lines[at].isBlank(); at++) {
            int colon = lines[at].indexOf(':');
            if (colon < 1) {
                throw new XmlProblem(
                        "no-header",
                        "“" + lines[at].strip() + "” is no header; an empty line stands before the body",
                        "request",
                        at + 1,
                        1);
            }
            headers.put(
                    lines[at].substring(0, colon).strip(),
                    lines[at].substring(colon + 1).strip());
        }
        StringBuilder body = new StringBuilder();
        for (int i = at + 1; i < lines.length; i++) {
            body.append(i == at + 1 ? "" : "\n").append(lines[i]);
        }
        return new HttpText(first.group(1), first.group(2), headers, body.toString());
    }

    /** Returns the message a request means. */
    public Node message(Contract contract, Offered offered) throws XmlProblem {
        HttpBinding http = offered.operation().http();
        Node.Builder made = Node.build(offered.operation().input().body().get(0).name());
        int question = target.indexOf('?');
        String path = question < 0 ? target : target.substring(0, question);
        Map<String, String> inPath = inPath(http.location(), path);
        if (inPath == null) {
            throw new XmlProblem(
                    "other-path", "the path " + path + " is not of the form " + http.location(), "request", 1, 1);
        }
        List<String[]> pairs = new ArrayList<>();
        for (String pair :
                question < 0 ? new String[0] : target.substring(question + 1).split("&")) {
            int equals = pair.indexOf('=');
            pairs.add(new String[] {
                decoded(equals < 0 ? pair : pair.substring(0, equals)),
                equals < 0 ? "" : decoded(pair.substring(equals + 1))
            });
        }
        for (Place place : http.described().places()) {
            switch (place.in()) {
                case "path" -> made.add(place.field(), inPath.getOrDefault(place.name(), ""));
                case "header" -> headers.forEach((name, value) -> {
                    if (name.equalsIgnoreCase(place.name())) {
                        made.add(place.field(), value);
                    }
                });
                case "cookie" -> cookie(place, made);
                default -> pairs.stream()
                        .filter(pair -> pair[0].equals(place.name()))
                        .forEach(pair -> made.add(place.field(), pair[1]));
            }
        }
        if (http.described().bodyType() != null && !body.isBlank()) {
            body(contract, offered, http.described(), made);
        }
        return made.done();
    }

    private void cookie(Place place, Node.Builder made) {
        for (String each : headers.getOrDefault("Cookie", "").split(";\\s*")) {
            if (each.startsWith(place.name() + "=")) {
                made.add(place.field(), decoded(each.substring(place.name().length() + 1)));
            }
        }
    }

    private void body(Contract contract, Offered offered, Described described, Node.Builder made) throws XmlProblem {
        byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
        Name name = Name.of(OpenApiReader.BODY);
        if (Described.json(described.bodyType())) {
            Node read = JsonReader.read(bytes, name, "body", XmlLimits.MESSAGES);
            SheetField field = bodyField(contract, offered);
            boolean array = field != null && field.max() != 1;
            if (array) {
                read.children().forEach(item -> made.add(item.named(name)));
            } else {
                made.add(read);
            }
        } else if (Described.xml(described.bodyType())) {
            Node read = NodeReader.read(new ByteArrayInputStream(bytes), "body", XmlLimits.MESSAGES);
            made.add(within(read, name));
        } else if (described.bodyType().contains("form-urlencoded")) {
            Node.Builder form = Node.build(name);
            for (String pair : body.strip().split("&")) {
                int equals = pair.indexOf('=');
                form.add(decoded(pair.substring(0, Math.max(0, equals))), decoded(pair.substring(equals + 1)));
            }
            made.add(form.done());
        } else {
            made.add(OpenApiReader.BODY, body);
        }
    }

    /** Returns the values of a path's places, null when the path is not of that form. */
    public static Map<String, String> inPath(String location, String path) {
        List<String> names = new ArrayList<>();
        StringBuilder pattern = new StringBuilder();
        Matcher places = Pattern.compile("\\{([^{}]+)}").matcher(location);
        int from = 0;
        while (places.find()) {
            pattern.append(Pattern.quote(location.substring(from, places.start())))
                    .append("([^/]*)");
            names.add(places.group(1));
            from = places.end();
        }
        pattern.append(Pattern.quote(location.substring(from)));
        Matcher found = Pattern.compile(pattern.toString()).matcher(path);
        if (!found.matches()) {
            return null;
        }
        Map<String, String> values = new LinkedHashMap<>();
        for (int i = 0; i < names.size(); i++) {
            values.put(names.get(i), decoded(found.group(i + 1).replace("+", "%2B")));
        }
        return values;
    }

    /** Returns the text. */
    public String text() {
        StringBuilder out = new StringBuilder(method).append(' ').append(target).append('\n');
        headers.forEach(
                (name, value) -> out.append(name).append(": ").append(value).append('\n'));
        return body.isEmpty()
                ? out.toString()
                : out.append('\n').append(body).append('\n').toString();
    }
}
