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
import wirekettle.core.schema.KnownSchemas;
import wirekettle.core.schema.SchemaDocument;
import wirekettle.core.schema.SoapEncoding;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.LenientXml;
import wirekettle.core.xml.XmlElement;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Follows imports and includes from the entry documents until everything reachable has been read once. */
final class DocumentGatherer {
    static final String WSDL = "http://schemas.xmlsoap.org/wsdl/";
    private static final int MOST_DOCUMENTS = 2_000;

    record Definitions(XmlElement root, String document) {}

    private record Unlocated(XmlElement link, String namespace, String document) {}

    final Map<String, ContractDocument> documents = new LinkedHashMap<>();
    final List<Definitions> definitions = new ArrayList<>();
    final List<SchemaDocument> schemas = new ArrayList<>();
    final Map<String, String> unavailable = new LinkedHashMap<>();
    private final List<Unlocated> unlocated = new ArrayList<>();
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
    void entry(String given) throws ContractRefused {
        String name = resolve("", given);
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
        XmlElement root = LenientXml.read(bytes, name, XmlLimits.DOCUMENTS, findings);
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
            boolean two = root.name().namespace().equals("http://www.w3.org/ns/wsdl");
            findings.add(Finding.at(
                    Severity.ERROR,
                    two ? "wsdl-2.0" : "not-a-description",
                    two
                            ? "this is WSDL 2.0; only WSDL 1.1 is read: ask the service for its WSDL 1.1"
                            : "the root element is " + root.name() + ", neither WSDL 1.1 definitions nor a schema",
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
                    "included into " + (includedInto.isEmpty() ? "no namespace" : includedInto) + " but declares " + own
                            + "; its own namespace is kept, and references that miss it are mended",
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
                    case "import" -> imported(child, document);
                    case "include", "redefine" -> follow(child, "schemaLocation", document, target);
                    default -> {}
                }
            }
        }
    }

    private void imported(XmlElement link, String document) {
        String location = link.attribute("schemaLocation");
        String namespace = link.attribute("namespace");
        if (namespace != null && KnownSchemas.has(namespace.strip())) {
            known(namespace.strip());
            return;
        }
        if (location == null || location.isBlank()) {
            if (namespace != null && !namespace.isBlank()) {
                unlocated.add(new Unlocated(link, namespace.strip(), document));
            }
            return;
        }
        XmlElement root = follow(link, "schemaLocation", document, null);
        String declared = root == null || !root.local().equals("schema") ? null : root.attribute("targetNamespace");
        if (root != null && root.local().equals("schema") && namespace != null && !namespace.equals(declared)) {
            findings.add(Finding.at(
                    Severity.WARNING,
                    "import-namespace",
                    "imports " + namespace + " from " + location + ", which declares "
                            + (declared == null ? "no namespace" : declared)
                            + "; its own is kept, and references that miss it are mended",
                    document,
                    link));
        }
    }

    /** Adds the schema of a standard, unless the contract brought one of that namespace along. */
    private void known(String namespace) {
        if (schemas.stream().noneMatch(s -> s.targetNamespace().equals(namespace))) {
            schemas.add(KnownSchemas.of(namespace));
        }
    }

    /** Imports by namespace alone are met by any schema of that namespace, read so far or given beside the others. */
    void settleImports() {
        for (int i = 0; i < unlocated.size(); i++) {
            Unlocated each = unlocated.get(i);
            boolean known = schemas.stream().anyMatch(s -> s.targetNamespace().equals(each.namespace()))
                    || each.namespace().equals(BuiltIn.XSD);
            String given = known ? null : source.schemaOf(each.namespace());
            if (given != null) {
                load(each.link(), given, each.document(), null);
            } else if (!known) {
                findings.add(Finding.at(
                        Severity.WARNING,
                        "import-without-location",
                        "namespace " + each.namespace()
                                + " is imported without a location and no document defines it; what is used of it is"
                                + " shown as any",
                        each.document(),
                        each.link()));
            }
        }
        boolean encoding = false;
        for (XmlElement root : roots.values()) {
            encoding |= mentions(root, SoapEncoding.NAMESPACE);
        }
        if (encoding) {
            known(SoapEncoding.NAMESPACE);
        }
        // xml:lang may be referred to without any import (XML Schema 1.0 part 1, 3.15.2.1 forbids what many do)
        if (roots.values().stream().anyMatch(DocumentGatherer::refersToXml)) {
            known(KnownSchemas.XML);
        }
    }

    private static boolean refersToXml(XmlElement element) {
        String ref = element.name().namespace().equals(BuiltIn.XSD) ? element.attribute("ref") : null;
        return ref != null && ref.startsWith("xml:")
                || element.children().stream().anyMatch(DocumentGatherer::refersToXml);
    }

    private static boolean mentions(XmlElement element, String namespace) {
        if (element.scope().containsValue(namespace)) {
            return true;
        }
        for (XmlElement child : element.children()) {
            boolean holder = child.local().equals("types") || child.local().equals("schema");
            if (holder && mentions(child, namespace)) {
                return true;
            }
        }
        for (XmlElement child : element.children()) {
            if (child.scope() != element.scope() && child.scope().containsValue(namespace)) {
                return true;
            }
        }
        return false;
    }

    private XmlElement follow(XmlElement link, String attribute, String document, String includedInto) {
        String location = link.attribute(attribute);
        if (location == null || location.isBlank()) {
            return null;
        }
        return load(link, resolve(document, location.strip()), document, includedInto);
    }

    private XmlElement load(XmlElement link, String name, String document, String includedInto) {
        if (!roots.containsKey(name) && roots.size() >= MOST_DOCUMENTS) {
            findings.add(Finding.at(
                    Severity.ERROR,
                    "too-many-documents",
                    "there are more than " + MOST_DOCUMENTS + " documents; the rest is left out",
                    document,
                    link));
            return null;
        }
        if (unavailable.containsKey(name)) {
            return null;
        }
        try {
            XmlElement root = read(name);
            take(root, name, includedInto);
            return root;
        } catch (XmlProblem e) {
            findings.add(Finding.of(e));
            unavailable.put(name, e.getMessage());
        } catch (IOException e) {
            unavailable.put(name, String.valueOf(e.getMessage()));
            findings.add(Finding.at(
                    Severity.ERROR,
                    "document-missing",
                    "the document " + name + " cannot be had: " + e.getMessage() + "; what it defines is shown as any",
                    document,
                    link));
        }
        return null;
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
