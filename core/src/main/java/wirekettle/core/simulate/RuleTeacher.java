package wirekettle.core.simulate;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.fill.Fill;
import wirekettle.core.request.ConstantFills;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.HttpText;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Makes rules from exchanges that were kept: asked the same, the simulator answers as the real service did. */
public final class RuleTeacher {
    private RuleTeacher() {}

    /**
     * Returns the rule of one exchange.
     *
     * @param request the request's text
     * @param reply the reply's text: an envelope, with a fault or without
     * @param status the reply's HTTP status
     * @throws XmlProblem when one of them is no XML
     */
    public static SimulatorRule of(Contract contract, Offered offered, String request, String reply, int status)
            throws XmlProblem {
        Operation operation = offered.operation();
        SoapVersion version = offered.port().soapVersion();
        List<SimulatorRule.Match> matches = new ArrayList<>();
        boolean http = HttpText.is(offered, request);
        ConstantFills.Result asked = http
                ? ConstantFills.of(
                        contract, operation.input(), HttpText.parse(request).message(contract, offered))
                : ConstantFills.of(contract, operation.input(), version, request);
        for (Fill fill : asked.fills()) {
            if (fill.constant() != null) {
                matches.add(new SimulatorRule.Match(fill.target(), fill.constant()));
            }
        }
        if (http && status >= 300) {
            return refused(contract, operation, matches, reply, status);
        }
        Reply read = version == null ? null : ReplyReader.read(reply.getBytes(StandardCharsets.UTF_8));
        if (read != null && read.fault() != null) {
            for (Operation.Fault fault : operation.faults()) {
                for (Node detail : read.fault().detail()) {
                    Message message = fault.message();
                    if (!message.body().isEmpty()
                            && message.body().get(0).name().equals(detail.name())) {
                        List<Fill> fills = ConstantFills.of(contract, message, null, NodeWriter.write(detail, false))
                                .fills();
                        return rule(
                                operation,
                                matches,
                                fills,
                                fault.name(),
                                read.fault().reason());
                    }
                }
            }
            return rule(
                    operation,
                    matches,
                    List.of(),
                    read.fault().code(),
                    read.fault().reason());
        }
        List<Fill> fills = List.of();
        if (operation.output() != null) {
            fills = http
                    ? ConstantFills.of(
                                    contract,
                                    operation.output(),
                                    Caller.reread(operation, reply.getBytes(StandardCharsets.UTF_8))
                                            .body()
                                            .get(0))
                            .fills()
                    : ConstantFills.of(contract, operation.output(), version, reply)
                            .fills();
        }
        return rule(operation, matches, fills, null, null);
    }

    private static SimulatorRule refused(
            Contract contract, Operation operation, List<SimulatorRule.Match> matches, String reply, int status)
            throws XmlProblem {
        String name = "HTTP " + status;
        List<Fill> fills = List.of();
        for (Operation.Fault fault : operation.faults()) {
            if (fault.name().equals(name)) {
                Node detail = JsonReader.read(
                        reply.getBytes(StandardCharsets.UTF_8),
                        fault.message().body().get(0).name(),
                        "reply",
                        XmlLimits.MESSAGES);
                fills = ConstantFills.of(contract, fault.message(), detail).fills();
            }
        }
        return rule(operation, matches, fills, name, null);
    }

    private static SimulatorRule rule(
            Operation operation, List<SimulatorRule.Match> matches, List<Fill> fills, String fault, String reason) {
        return new SimulatorRule(operation.key(), null, null, fills, fault, reason, null, null, matches, null);
    }
}
