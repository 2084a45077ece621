package wirekettle.core.simulate;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.value.XmlText;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.LenientXml;
import wirekettle.core.xml.XmlElement;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * A contract's documents as its simulator serves them: every address in them is the simulator's own, and every import
 * leads to a document it serves, so that whoever is given only that address never reaches the real service.
 */
public final class ServedDocuments {
    private static final String ADDRESSING = "addressing";

    private final Contract contract;
    private final String address;
    private final Map<String, ContractDocument> byFile = new LinkedHashMap<>();
    private final Map<String, String> files = new LinkedHashMap<>();

    /** Makes the documents of a contract served at an address, without a slash at its end. */
    public ServedDocuments(Contract contract, String address) {
        this.contract = contract;
        this.address = address;
        for (ContractDocument document : contract.documents()) {
            String plain = document.name().replaceFirst("[?#].*", "").replaceFirst(".*/", "");
            plain = plain.replaceAll("[^A-Za-z0-9._-]", "-");
            String file = plain.isEmpty() || byFile.containsKey(plain) ? byFile.size() + "-" + plain : plain;
            byFile.put(file, document);
            files.put(document.name(), file);
        }
    }

    /** Returns the media type of a document's text. */
    public static String type(byte[] text) {
        return new String(text, StandardCharsets.UTF_8).startsWith("<")
                ? "text/xml; charset=utf-8"
                : "application/json";
    }

    /** Returns a document by the name of its file, the first for none; null when there is none of that name. */
    public byte[] text(String file) {
        ContractDocument document =
                file == null || file.isEmpty() ? contract.documents().get(0) : byFile.get(file);
        if (document == null) {
            return null;
        }
        try {
            XmlElement root = LenientXml.read(
                    document.bytes(), document.name(), XmlLimits.DOCUMENTS, new java.util.ArrayList<Finding>());
            StringBuilder out = new StringBuilder("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
            write(root, Map.of(), document.name(), out);
            return out.toString().getBytes(StandardCharsets.UTF_8);
        } catch (XmlProblem e) {
            return json(document);
        }
    }

    private byte[] json(ContractDocument document) {
        ObjectMapper mapper = new ObjectMapper();
        try {
            JsonNode root = mapper.readTree(document.text());
            withoutServers(root);
            if (root instanceof ObjectNode object && object.has("openapi")) {
                object.putArray("servers").addObject().put("url", address);
            }
            return mapper.writeValueAsBytes(root);
        } catch (IOException e) {
            // a description in YAML: its addresses cannot be told from other texts here, so it is not served
            return ("{\"openapi\":\"3.0.0\",\"info\":{\"title\":\"served as JSON only\",\"version\":\"1\"},\"paths\":{}}")
                    .getBytes(StandardCharsets.UTF_8);
        }
    }

    private static void withoutServers(JsonNode node) {
        if (node instanceof ObjectNode object) {
            object.remove(List.of("servers", "host", "basePath"));
        }
        node.forEach(ServedDocuments::withoutServers);
    }

    private void write(XmlElement element, Map<String, String> around, String document, StringBuilder out) {
        Map<String, String> scope = new LinkedHashMap<>(element.prefixes());
        String name = qualified(element.name().namespace(), element.local(), scope, true);
        out.append('<').append(name);
        scope.forEach((prefix, uri) -> {
            if (!uri.equals(around.get(prefix)) && !prefix.equals("xml")) {
                out.append(prefix.isEmpty() ? " xmlns" : " xmlns:" + prefix)
                        .append("=\"")
                        .append(XmlText.attribute(uri))
                        .append('"');
            }
        });
        for (int i = 0; i < element.attributeCount(); i++) {
            String local = element.attributeName(i).local();
            String value = attribute(element, i, document);
            if (value != null) {
                out.append(' ')
                        .append(qualified(element.attributeName(i).namespace(), local, scope, false))
                        .append("=\"")
                        .append(XmlText.attribute(value))
                        .append('"');
            }
        }
        out.append('>');
        if (element.children().isEmpty()) {
            boolean place = element.local().equals("Address")
                    && element.name().namespace().contains(ADDRESSING);
            out.append(XmlText.escape(place ? address : element.text()));
        }
        element.children().forEach(child -> write(child, scope, document, out));
        out.append("</").append(name).append('>');
    }

    private static String qualified(String namespace, String local, Map<String, String> scope, boolean element) {
        if (namespace.isEmpty() || namespace.equals("http://www.w3.org/XML/1998/namespace")) {
            return namespace.isEmpty() ? local : "xml:" + local;
        }
        return scope.entrySet().stream()
                .filter(e -> e.getValue().equals(namespace)
                        && (element || !e.getKey().isEmpty()))
                .map(e -> e.getKey().isEmpty() ? local : e.getKey() + ":" + local)
                .findFirst()
                .orElse(local);
    }

    /** Returns an attribute's value as it is served, null for one that is left out. */
    private String attribute(XmlElement element, int index, String document) {
        String local = element.attributeName(index).local();
        String value = element.attributeValue(index);
        boolean link = List.of("import", "include", "redefine").contains(element.local());
        if (link && (local.equals("location") || local.equals("schemaLocation"))) {
            String name = contract.located(document, value.strip());
            if (name.equals(contract.documents().get(0).name())) {
                return address + "?wsdl"; // by the name it was asked for, or it would be read twice
            }
            String file = files.get(name);
            return file == null ? null : address + "/" + file;
        }
        if (local.equals("schemaLocation") || local.equals("noNamespaceSchemaLocation")) {
            return null; // a hint that leads out
        }
        boolean place = element.local().equals("address") && local.equals("location");
        return place ? address : value;
    }
}
