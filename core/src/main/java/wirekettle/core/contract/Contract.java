package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.SchemaCheck;
import wirekettle.core.schema.SchemaDocument;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.SheetField;
import wirekettle.core.xml.Finding;

/** A service description with all its documents, read once and never changed. Safe for several threads. */
public final class Contract {
    private final String name;
    private final List<String> entries;
    private final List<ContractDocument> documents;
    private final Map<String, String> unavailable;
    private final List<Service> services;
    private final SchemaSet schemas;
    private final List<SchemaDocument> schemaDocuments;
    private final List<Finding> findings;
    private SchemaCheck check;

    Contract(
            String name,
            List<String> entries,
            List<ContractDocument> documents,
            Map<String, String> unavailable,
            List<Service> services,
            SchemaSet schemas,
            List<SchemaDocument> schemaDocuments,
            List<Finding> findings) {
        this.name = name;
        this.entries = List.copyOf(entries);
        this.documents = List.copyOf(documents);
        this.unavailable = Map.copyOf(unavailable);
        this.services = List.copyOf(services);
        this.schemas = schemas;
        this.schemaDocuments = List.copyOf(schemaDocuments);
        this.findings = List.copyOf(findings);
    }

    /** Returns the name of the first service, or of the definitions. */
    public String name() {
        return name;
    }

    /** Returns every document that was read, the entry first. */
    public List<ContractDocument> documents() {
        return documents;
    }

    /** Returns the names of the documents reading starts with. */
    public List<String> entries() {
        return entries;
    }

    /** Returns the documents that could not be fetched, each with the reason. */
    public Map<String, String> unavailable() {
        return unavailable;
    }

    /** Returns the services. */
    public List<Service> services() {
        return services;
    }

    /** Returns the schemas' components. */
    public SchemaSet schemas() {
        return schemas;
    }

    /** Returns everything unusual that was found. */
    public List<Finding> findings() {
        return findings;
    }

    /** One operation with the port and service it is offered at. */
    public record Offered(Service service, Port port, Operation operation) {}

    /** Returns every operation of every port. */
    public List<Offered> operations() {
        List<Offered> all = new ArrayList<>();
        for (Service service : services) {
            for (Port port : service.ports()) {
                port.operations().forEach(operation -> all.add(new Offered(service, port, operation)));
            }
        }
        return all;
    }

    /** Finds an operation; null or empty service and port mean the first that has it. */
    public Optional<Offered> operation(String service, String port, String operation) {
        return operations().stream()
                .filter(o -> service == null
                        || service.isEmpty()
                        || o.service().name().equals(service))
                .filter(o -> port == null || port.isEmpty() || o.port().name().equals(port))
                .filter(o -> o.operation().key().equals(operation))
                .findFirst();
    }

    /** Returns the name of the document a location in another one leads to, whether it is there or not. */
    public String located(String document, String location) {
        String name = DocumentGatherer.resolve(document, location);
        if (documents.stream().anyMatch(d -> d.name().equals(name))) {
            return name;
        }
        // documents given together are found by their file names
        String file = name.replaceFirst("[?#].*", "").replaceFirst(".*/", "");
        return documents.stream()
                .map(ContractDocument::name)
                .filter(n ->
                        n.replaceFirst("[?#].*", "").replaceFirst(".*/", "").equals(file))
                .findFirst()
                .orElse(name);
    }

    /** Returns the sheet of one element of a message. */
    public SheetField sheet(ElementDecl element) {
        return SheetField.of(element, schemas);
    }

    /** Returns the sheet of one element of a message, with documents inside some of its fields by their paths. */
    public SheetField sheet(ElementDecl element, Map<String, EmbeddedShape> documents) {
        return SheetField.of(element, schemas, documents);
    }

    /** Returns the prefixes the contract's own schemas use, by namespace. */
    public Map<String, String> prefixes() {
        Map<String, String> found = new java.util.LinkedHashMap<>();
        for (SchemaDocument document : schemaDocuments) {
            new java.util.TreeMap<>(document.root().scope()).forEach((prefix, namespace) -> {
                if (!prefix.isEmpty() && !found.containsValue(prefix)) {
                    found.putIfAbsent(namespace, prefix);
                }
            });
        }
        return found;
    }

    /** Returns an example of one element of a message. */
    public ExampleMessage.Result example(ElementDecl element, ExampleMessage.Wish wish) {
        return ExampleMessage.of(element, schemas, wish);
    }

    /** Returns the validator over this contract's schemas; built at first use. */
    public synchronized SchemaCheck check() {
        if (check == null) {
            List<ElementDecl> made = new ArrayList<>();
            for (Offered offered : operations()) {
                made.addAll(offered.operation().elements());
            }
            made.removeIf(element -> schemas.element(element.name()) != null);
            check = SchemaCheck.of(schemaDocuments, made, schemas);
        }
        return check;
    }
}
