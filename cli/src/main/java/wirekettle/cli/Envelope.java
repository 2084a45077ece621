package wirekettle.cli;

import java.io.IOException;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.ExampleEnvelope;

/** Makes sample messages. */
@Command(
        name = "envelope",
        mixinStandardHelpOptions = true,
        description = "Make sample messages; with no operation named, of every one.")
final class Envelope implements Callable<Integer> {
    @Parameters(arity = "1..*", paramLabel = "FILE|ADDRESS", description = "WSDL files, zips or addresses")
    private List<String> from;

    @Option(names = "--service", description = "only this service")
    private String service;

    @Option(names = "--port", description = "only this port")
    private String port;

    @Option(names = "--operation", description = "only this operation; NAME#2 for the second of that name")
    private String operation;

    @Option(names = "--all", description = "with every optional part")
    private boolean all;

    @Option(
            names = "--pick",
            paramLabel = "PATH",
            description = "write this field too, with the derived type or substitute its path names; may be repeated")
    private List<String> picks = List.of();

    @Option(names = "--reply", description = "the reply instead of the request")
    private boolean reply;

    @Option(names = "--fault", paramLabel = "NAME", description = "this fault's message instead of the request")
    private String fault;

    @Option(
            names = "--check",
            description = "validate against the contract's schemas: a line a message, exit 1 if one is not valid"
                    + " without a finding that says why no valid one can exist")
    private boolean check;

    @Override
    public Integer call() throws IOException {
        int exit = 0;
        for (String each : from) {
            exit = Math.max(exit, all(each));
        }
        return exit;
    }

    private int all(String file) throws IOException {
        Contract contract;
        try {
            contract = Contracts.read(file, false);
        } catch (ContractRefused e) {
            System.err.println("kettle: " + e.getMessage());
            return 2;
        }
        List<Offered> chosen = contract.operations().stream()
                .filter(o -> service == null || o.service().name().equals(service))
                .filter(o -> port == null || o.port().name().equals(port))
                .filter(o -> operation == null || o.operation().key().equals(operation))
                .toList();
        if (chosen.isEmpty()) {
            System.err.println("kettle: no such operation; it has "
                    + contract.operations().stream()
                            .map(o -> o.port().name() + "." + o.operation().key())
                            .toList());
            return 2;
        }
        int exit = 0;
        for (Offered offered : chosen) {
            Message message = message(offered.operation());
            if (message != null) {
                exit = Math.max(exit, show(contract, offered, message));
            }
        }
        return exit;
    }

    private Message message(Operation of) {
        if (fault != null) {
            return of.faults().stream()
                    .filter(f -> f.name().equals(fault))
                    .map(Operation.Fault::message)
                    .findFirst()
                    .orElse(null);
        }
        return reply ? of.output() : of.input();
    }

    private int show(Contract contract, Offered offered, Message message) {
        ExampleEnvelope example = ExampleEnvelope.of(contract, message, all, Picks.of(picks));
        String label = offered.service().name() + " " + offered.port().name() + " "
                + offered.operation().key();
        if (!check) {
            System.out.println("<!-- " + label + " -->");
            System.out.println(example.text(offered.port().soapVersion(), true));
            example.problems().forEach(p -> System.err.println("note: " + p));
            return 0;
        }
        List<String> wrong = example.wrong(contract);
        if (wrong.isEmpty()) {
            System.out.println("valid    " + label);
            return 0;
        }
        if (!example.problems().isEmpty()) {
            System.out.println("excused  " + label + "  " + example.problems().get(0));
            return 0;
        }
        System.out.println("INVALID  " + label + "  " + wrong.get(0));
        return 1;
    }
}
