package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SchemaCheck;
import wirekettle.core.schema.SchemaDocument;
import wirekettle.core.schema.SchemaSet;
import wirekettle.core.schema.SheetField;
import wirekettle.core.xml.Finding;

/** A service description with all its documents, read once and never changed. Safe for several threads. */
public final class Contract {
    private final String name;
    private final List<ContractDocument> documents;
    private final List<Service> services;
    private final SchemaSet schemas;
    private final List<SchemaDocument> schemaDocuments;
    private final List<Finding> findings;
    private SchemaCheck check;

    Contract(
            String name,
            List<ContractDocument> documents,
            List<Service> services,
            SchemaSet schemas,
            List<SchemaDocument> schemaDocuments,
            List<Finding> findings) {
        this.name = name;
        this.documents = List.copyOf(documents);
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

    /** Returns the sheet of one element of a message. */
    public SheetField sheet(ElementDecl element) {
        return SheetField.of(element, schemas);
    }

    /** Returns the validator over this contract's schemas; built at first use. */
    public synchronized SchemaCheck check() {
        if (check == null) {
            List<ElementDecl> made = new ArrayList<>();
            for (Offered offered : operations()) {
                if (offered.operation().style().equals("rpc")) {
                    made.addAll(offered.operation().input().body());
                    if (offered.operation().output() != null) {
                        made.addAll(offered.operation().output().body());
                    }
                }
            }
            made.removeIf(element -> schemas.element(element.name()) != null);
            check = SchemaCheck.of(schemaDocuments, made);
        }
        return check;
    }
}
