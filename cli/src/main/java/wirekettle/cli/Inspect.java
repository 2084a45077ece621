package wirekettle.cli;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import wirekettle.core.contract.Advice;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.Port;
import wirekettle.core.contract.Service;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.xml.Finding;

/** Prints what a contract contains. */
@Command(
        name = "inspect",
        mixinStandardHelpOptions = true,
        description =
                "Say what contracts hold: services, ports, operations, messages, findings. Exit 2 if any could not be used.")
final class Inspect implements Callable<Integer> {
    private static final int MOST_FIELDS = 200_000;

    @Option(names = "--json", description = "one JSON object a line")
    private boolean json;

    @Option(names = "--strict", description = "refuse instead of repairing")
    private boolean strict;

    @Parameters(arity = "1..*", paramLabel = "FILE|ADDRESS", description = "WSDL files, zips or addresses")
    private List<String> from;

    @Override
    public Integer call() throws JsonProcessingException {
        int exit = 0;
        for (String each : from) {
            Map<String, Object> seen = look(each);
            exit = Boolean.TRUE.equals(seen.get("ok")) ? exit : 2;
            if (json) {
                System.out.println(new ObjectMapper().writeValueAsString(seen));
            } else {
                print(seen);
            }
        }
        return exit;
    }

    private Map<String, Object> look(String file) {
        Map<String, Object> seen = new LinkedHashMap<>();
        seen.put("file", file);
        long start = System.nanoTime();
        try {
            Contract contract = Contracts.read(file, strict);
            seen.put("ok", true);
            seen.put(
                    "services",
                    contract.services().stream().map(s -> service(s)).toList());
            seen.put("types", contract.schemas().typeCount());
            seen.put("fields", fields(contract));
            seen.put("documents", contract.documents().size());
            seen.put("findings", findings(contract.findings()));
        } catch (ContractRefused e) {
            seen.put("ok", false);
            seen.put("error", e.getMessage());
            seen.put("findings", findings(e.findings()));
        } catch (IOException e) {
            seen.put("ok", false);
            seen.put("error", file + ": " + e.getMessage());
            seen.put("findings", List.of());
        }
        seen.put("milliseconds", (System.nanoTime() - start) / 1_000_000);
        return seen;
    }

    private static Map<String, Object> service(Service service) {
        Map<String, Object> out = new LinkedHashMap<>();
        out.put("name", service.name());
        out.put("documentation", service.documentation());
        out.put("ports", service.ports().stream().map(Inspect::port).toList());
        return out;
    }

    private static Map<String, Object> port(Port port) {
        Map<String, Object> out = new LinkedHashMap<>();
        out.put("name", port.name());
        out.put(
                "soapVersion",
                port.soapVersion() == null ? "" : port.soapVersion().label());
        out.put("protocol", port.protocol());
        out.put("address", port.address());
        out.put("documentation", port.documentation());
        out.put("advice", port.advice().stream().map(Advice::sentence).toList());
        out.put("operations", port.operations().stream().map(Inspect::operation).toList());
        return out;
    }

    private static Map<String, Object> operation(Operation operation) {
        Map<String, Object> out = new LinkedHashMap<>();
        out.put("name", operation.key());
        out.put("style", operation.style());
        out.put("use", operation.use());
        out.put("action", operation.action());
        out.put("effect", operation.proposedEffect().name().toLowerCase(java.util.Locale.ROOT));
        out.put("input", names(operation.input().body()));
        out.put(
                "output",
                operation.output() == null
                        ? List.of()
                        : names(operation.output().body()));
        out.put("faults", operation.faults().stream().map(Operation.Fault::name).toList());
        out.put("headers", names(operation.input().headers()));
        out.put("headerFaults", names(operation.input().headerFaults()));
        out.put(
                "attachments",
                operation.input().attachments().stream().map(a -> a.part()).toList());
        out.put("kind", operation.kind().label());
        out.put("documentation", operation.documentation());
        return out;
    }

    private static List<String> names(List<ElementDecl> elements) {
        return elements.stream().map(e -> e.name().local()).toList();
    }

    private static int fields(Contract contract) {
        int[] count = {0};
        java.util.Set<Object> seen = new java.util.HashSet<>();
        for (Contract.Offered offered : contract.operations()) {
            List<Message> messages = new ArrayList<>(List.of(offered.operation().input()));
            if (offered.operation().output() != null) {
                messages.add(offered.operation().output());
            }
            for (Message message : messages) {
                for (ElementDecl element : message.body()) {
                    if (seen.add(element)) {
                        count(contract.sheet(element), count);
                    }
                }
            }
        }
        return count[0];
    }

    private static void count(SheetField field, int[] count) {
        if (count[0]++ < MOST_FIELDS && !field.recursive()) {
            field.children().forEach(child -> count(child, count));
        }
    }

    private static List<Map<String, Object>> findings(List<Finding> findings) {
        List<Map<String, Object>> out = new ArrayList<>();
        for (Finding finding : findings) {
            Map<String, Object> each = new LinkedHashMap<>();
            each.put("severity", finding.severity().name().toLowerCase(java.util.Locale.ROOT));
            each.put("code", finding.code());
            each.put("message", finding.message());
            each.put("document", finding.document());
            each.put("line", finding.line());
            each.put("column", finding.column());
            out.add(each);
        }
        return out;
    }

    @SuppressWarnings("unchecked")
    private static void print(Map<String, Object> seen) {
        System.out.println(seen.get("file")
                + (Boolean.TRUE.equals(seen.get("ok")) ? "" : "  cannot be used: " + seen.get("error")));
        for (Map<String, Object> service : (List<Map<String, Object>>) seen.getOrDefault("services", List.of())) {
            System.out.println("  service " + service.get("name"));
            for (Map<String, Object> port : (List<Map<String, Object>>) service.get("ports")) {
                System.out.println(
                        "    port " + port.get("name") + "  " + port.get("protocol") + "  " + port.get("address"));
                for (String advice : (List<String>) port.get("advice")) {
                    System.out.println("      " + advice);
                }
                for (Map<String, Object> operation : (List<Map<String, Object>>) port.get("operations")) {
                    System.out.println("      " + operation.get("name") + "  " + operation.get("style") + "/"
                            + operation.get("use") + "  " + operation.get("kind") + "  " + operation.get("effect")
                            + "  " + operation.get("input")
                            + " → " + operation.get("output") + "  faults " + operation.get("faults"));
                }
            }
        }
        if (seen.containsKey("types")) {
            System.out.println("  " + seen.get("types") + " types, " + seen.get("fields") + " fields, "
                    + seen.get("documents") + " documents, " + seen.get("milliseconds") + " ms");
        }
        for (Map<String, Object> finding : (List<Map<String, Object>>) seen.get("findings")) {
            System.out.println("  " + finding.get("severity") + " " + finding.get("code") + "  "
                    + finding.get("document") + ":" + finding.get("line") + ":" + finding.get("column") + "  "
                    + finding.get("message"));
        }
    }
}
