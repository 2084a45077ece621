package wirekettle.core.contract;

import java.io.IOException;
import java.net.URI;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.schema.SchemaDocument;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/** Follows imports and includes from the entry documents until everything reachable has been read once. */
final class DocumentGatherer {
    static final String WSDL = "http://schemas.xmlsoap.org/wsdl/";
    private static final int MOST_DOCUMENTS = 2_000;

    record Definitions(XmlElement root, String document) {}

    final Map<String, ContractDocument> documents = new LinkedHashMap<>();
    final List<Definitions> definitions = new ArrayList<>();
    final List<SchemaDocument> schemas = new ArrayList<>();
    private final DocumentSource source;
    private final List<Finding> findings;
    private final ImportProgress progress;
    private final Map<String, XmlElement> roots = new LinkedHashMap<>();
    private final Set<String> taken = new HashSet<>();

    DocumentGatherer(DocumentSource source, List<Finding> findings, ImportProgress progress) {
        this.source = source;
        this.findings = findings;
        this.progress = progress;
    }

    /** Reads an entry document; what makes it unusable is a refusal. */
    void entry(String name) throws ContractRefused {
        XmlElement root;
        try {
            root = read(name);
        } catch (XmlProblem e) {
            findings.add(Finding.of(e));
            throw new ContractRefused(findings);
        } catch (IOException e) {
            findings.add(new Finding(Severity.ERROR, "not-available", e.getMessage(), name, 0, 0));
            throw new ContractRefused(findings);
        }
        take(root, name, null);
    }

    private XmlElement read(String name) throws XmlProblem, IOException {
        XmlElement known = roots.get(name);
        if (known != null) {
            return known;
        }
        progress.reading(name, documents.size());
        byte[] bytes = source.load(name);
        XmlElement root = XmlTree.read(bytes, name, XmlLimits.DOCUMENTS);
        documents.put(name, new ContractDocument(name, bytes));
        roots.put(name, root);
        return root;
    }

    private void take(XmlElement root, String document, String includedInto) {
        if (root.name().namespace().equals(WSDL) && root.local().equals("definitions")) {
            if (taken.add(document)) {
                definitions(root, document);
            }
        } else if (root.name().namespace().equals(BuiltIn.XSD) && root.local().equals("schema")) {
            schema(root, document, includedInto);
        } else if (taken.add(document)) {
            findings.add(Finding.at(
                    Severity.ERROR,
                    "not-a-description",
                    "the root element is " + root.name() + ", neither WSDL 1.1 definitions nor a schema",
                    document,
                    root));
        }
    }

    private void definitions(XmlElement root, String document) {
        definitions.add(new Definitions(root, document));
        for (XmlElement child : root.children(WSDL, "import")) {
            follow(child, "location", document, null);
        }
        for (XmlElement types : root.children(WSDL, "types")) {
            for (XmlElement schema : types.children(BuiltIn.XSD, "schema")) {
                schema(schema, document, null);
            }
        }
    }

    private void schema(XmlElement root, String document, String includedInto) {
        String own = root.attribute("targetNamespace");
        String target = own != null ? own : includedInto == null ? "" : includedInto;
        if (own != null && includedInto != null && !own.equals(includedInto)) {
            findings.add(Finding.at(
                    Severity.WARNING,
                    "include-namespace",
                    "included into " + includedInto + " but declares " + own + "; its own namespace is kept",
                    document,
                    root));
        }
        boolean inline = root.parent() != null;
        if (!taken.add(document + "|" + target + (inline ? "|" + root.line() + ":" + root.column() : ""))) {
            return;
        }
        schemas.add(new SchemaDocument(root, document, target));
        for (XmlElement child : root.children()) {
            if (child.name().namespace().equals(BuiltIn.XSD)) {
                switch (child.local()) {
                    case "import" -> follow(child, "schemaLocation", document, null);
                    case "include", "redefine" -> follow(child, "schemaLocation", document, target);
                    default -> {}
                }
            }
        }
    }

    private void follow(XmlElement link, String attribute, String document, String includedInto) {
        String location = link.attribute(attribute);
        if (location == null || location.isBlank()) {
            return;
        }
        String name = resolve(document, location.strip());
        if (!roots.containsKey(name) && roots.size() >= MOST_DOCUMENTS) {
            findings.add(Finding.at(
                    Severity.ERROR,
                    "too-many-documents",
                    "more than " + MOST_DOCUMENTS + " documents",
                    document,
                    link));
            return;
        }
        try {
            take(read(name), name, includedInto);
        } catch (XmlProblem e) {
            findings.add(Finding.of(e));
        } catch (IOException e) {
            findings.add(Finding.at(
                    Severity.ERROR,
                    "document-missing",
                    location + " could not be read: " + e.getMessage() + "; what it defines is missing",
                    document,
                    link));
        }
    }

    static String resolve(String base, String location) {
        if (location.matches("^[a-zA-Z][a-zA-Z0-9+.-]+:.*")) {
            return location;
        }
        if (base.matches("^https?://.*")) {
            try {
                return URI.create(base).resolve(location.replace(" ", "%20")).toString();
            } catch (IllegalArgumentException e) {
                return location;
            }
        }
        String path = location.startsWith("/") ? location : base.substring(0, base.lastIndexOf('/') + 1) + location;
        List<String> parts = new ArrayList<>();
        for (String part : path.replace('\\', '/').split("/")) {
            if (part.equals("..")
                    && !parts.isEmpty()
                    && !parts.get(parts.size() - 1).equals("..")) {
                parts.remove(parts.size() - 1);
            } else if (!part.equals(".")) {
                parts.add(part);
            }
        }
        return String.join("/", parts);
    }
}
