package wirekettle.server.serve;

import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.flow.file.AnswerStage;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.offer.OwnContract;
import wirekettle.core.simulate.ServedDocuments;
import wirekettle.core.soap.FaultCode;
import wirekettle.core.soap.SoapRequest;
import wirekettle.core.value.Node;
import wirekettle.server.triggers.CallerChecks;
import wirekettle.server.triggers.TriggerSpec;

/**
 * A SOAP service at an address: a port of a contract, or what is described of the flows themselves; each operation is
 * answered by a flow. Never changed.
 */
final class SoapAddress {
    private final String path;
    private final Contract contract;
    private final boolean own;
    private final Map<String, Served> flows;
    private final List<Contract.Offered> offered;

    /** An operation that was asked, and the flow that answers it. */
    record Asked(Contract.Offered offered, Served served) {}

    private SoapAddress(
            String path, Contract contract, boolean own, Map<String, Served> flows, List<Contract.Offered> offered) {
        this.path = path;
        this.contract = contract;
        this.own = own;
        this.flows = flows;
        this.offered = offered;
    }

    /**
     * Makes what answers at an address.
     *
     * @param served the flows that answer there, at least one
     * @param contracts gives contracts by their names, null for none
     */
    static SoapAddress of(String path, List<Served> served, Function<String, Contract> contracts) {
        TriggerSpec.Soap first = served.get(0).spec().soap();
        Map<String, Served> flows = new LinkedHashMap<>();
        served.forEach(each ->
                flows.put(CallerChecks.operation(each.spec().soap(), each.file().name()), each));
        Contract contract = first.own() ? own(path, flows) : contracts.apply(first.contract());
        if (contract == null) {
            return null;
        }
        List<Contract.Offered> offered = contract.operations();
        if (!first.own()) {
            Contract.Offered one = contract.operation(
                            first.service(),
                            first.port(),
                            flows.keySet().iterator().next())
                    .orElse(null);
            offered = one == null
                    ? List.of()
                    : offered.stream()
                            .filter(each -> each.service()
                                            .name()
                                            .equals(one.service().name())
                                    && each.port().name().equals(one.port().name()))
                            .toList();
        }
        return new SoapAddress(path, contract, first.own(), flows, offered);
    }

    private static Contract own(String path, Map<String, Served> flows) {
        String[] segments = path.split("/");
        String last = segments[segments.length - 1];
        StringBuilder service = new StringBuilder();
        for (String word : last.split("[^a-z0-9]+")) {
            if (!word.isEmpty()) {
                service.append(Character.toUpperCase(word.charAt(0))).append(word.substring(1));
            }
        }
        String name = Character.isLetter(service.charAt(0)) ? service.toString() : "Flow" + service;
        List<OwnContract.Operation> operations = flows.entrySet().stream()
                .map(each -> operation(each.getKey(), each.getValue()))
                .toList();
        String text = OwnContract.wsdl(name, "urn:wire-kettle:" + path.replace('/', ':'), "/serve/" + path, operations);
        try {
            return ContractReader.read(
                    new GivenDocuments().add("service.wsdl", text.getBytes(StandardCharsets.UTF_8)), true);
        } catch (ContractRefused e) {
            throw new IllegalStateException("a description of our own cannot be read: " + e.getMessage(), e);
        }
    }

    private static OwnContract.Operation operation(String name, Served served) {
        List<AnswerStage> answers = served.file().all(AnswerStage.class).stream()
                .filter(each -> served.file().stages().contains(each))
                .toList();
        return new OwnContract.Operation(
                name,
                served.file().source().map(ReadStage::input).orElseThrow(),
                answers.isEmpty() ? null : answers.get(0),
                served.file().name());
    }

    /** Returns the flows that answer here. */
    Iterable<Served> flows() {
        return flows.values();
    }

    Contract contract() {
        return contract;
    }

    /** Tells whether the description is made of the flows. */
    boolean own() {
        return own;
    }

    /**
     * Returns a document of the description as it is served.
     *
     * @param address this address, as the caller knows it
     * @param file the name of an imported document, null for the first
     * @return null where there is none of that name
     */
    byte[] document(String address, String file) {
        return new ServedDocuments(contract, address).text(file);
    }

    /** Returns how large a request may be, in bytes: as much as the flow that takes most. */
    long mostBytes() {
        return flows.values().stream().mapToLong(Served::mostBytes).max().orElse(0);
    }

    /**
     * Finds the operation that is asked: by the first element of the body, and by the action where several take the
     * same.
     *
     * @param action the SOAPAction or action parameter, null where there is none
     * @throws SoapRequest.Refused where there is none, or it is not answered here
     */
    Asked asked(SoapRequest request, String action) throws SoapRequest.Refused {
        Node first = request.body().isEmpty() ? null : request.body().get(0);
        List<Contract.Offered> fit =
                offered.stream().filter(each -> takes(each, first)).toList();
        if (fit.isEmpty()) {
            throw new SoapRequest.Refused(
                    FaultCode.SENDER,
                    first == null
                            ? "the request has no body"
                            : "no operation here takes " + first.name().local() + " of “"
                                    + first.name().namespace() + "”");
        }
        List<Contract.Offered> spoken = fit.stream()
                .filter(each -> each.port().soapVersion() == request.version())
                .toList();
        if (spoken.isEmpty()) {
            SoapVersion version = fit.get(0).port().soapVersion();
            throw new SoapRequest.Refused(FaultCode.VERSION_MISMATCH, "this port speaks SOAP " + version.label());
        }
        Contract.Offered its = spoken.stream()
                .filter(each -> each.operation().action().equals(action))
                .findFirst()
                .orElse(spoken.get(0));
        Served served = flows.get(its.operation().key());
        if (served == null) {
            throw new SoapRequest.Refused(
                    FaultCode.RECEIVER, its.operation().key() + " is not answered at this address");
        }
        return new Asked(its, served);
    }

    private static boolean takes(Contract.Offered each, Node first) {
        var body = each.operation().input().body();
        return body.isEmpty()
                ? first == null
                : first != null && body.get(0).name().equals(first.name());
    }

    String path() {
        return path;
    }
}
