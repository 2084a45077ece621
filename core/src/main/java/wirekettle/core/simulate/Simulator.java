package wirekettle.core.simulate;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.mapping.ByteOut;
import wirekettle.core.mapping.ExpressionProblem;
import wirekettle.core.mapping.Expressions;
import wirekettle.core.mapping.FillPlan;
import wirekettle.core.mapping.MappingProblem;
import wirekettle.core.mapping.Scope;
import wirekettle.core.schema.ExampleMessage;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Answers every operation of a contract: by the first rule that holds, else with a valid example. Thread-safe. */
public final class Simulator {
    private final Contract contract;
    private final List<SimulatorRule> rules;
    private final Node data;
    private final Expressions expressions = new Expressions();
    private final Map<String, FillPlan> plans = new java.util.concurrent.ConcurrentHashMap<>();
    private final Map<String, Expressions.Compiled> compiled = new java.util.concurrent.ConcurrentHashMap<>();
    private final AtomicLong received = new AtomicLong();
    private final List<String> invalid = java.util.Collections.synchronizedList(new ArrayList<>());

    /**
     * Makes a simulator.
     *
     * @param data what rules can look things up in as {@code $data}, or null
     */
    public Simulator(Contract contract, List<SimulatorRule> rules, Node data) {
        this.contract = contract;
        this.rules = List.copyOf(rules);
        this.data = data == null ? Node.branch(Name.of("data"), List.of()) : data;
    }

    /**
     * An answer to send.
     *
     * @param status the HTTP status
     * @param contentType its content type
     * @param body its content
     * @param delayMillis how long to wait first
     */
    public record Answer(int status, String contentType, byte[] body, int delayMillis) {}

    /** Returns how many requests were answered. */
    public long received() {
        return received.get();
    }

    /** Returns what was wrong with requests that did not fit the contract's schemas, by the JDK's validator. */
    public List<String> invalidRequests() {
        return List.copyOf(invalid);
    }

    /** Returns the contract answered for. */
    public Contract contract() {
        return contract;
    }

    /** Answers one request envelope. */
    public Answer answer(byte[] envelope) {
        received.incrementAndGet();
        SoapVersion version = new String(envelope, 0, Math.min(400, envelope.length), StandardCharsets.UTF_8)
                        .contains(SoapVersion.SOAP_12.envelope())
                ? SoapVersion.SOAP_12
                : SoapVersion.SOAP_11;
        try {
            Reply request = ReplyReader.read(envelope);
            Node body = request.body().isEmpty() ? null : request.body().get(0);
            if (body == null) {
                return fault(version, true, "the request has no body", null);
            }
            Offered offered = find(body, version);
            if (offered == null) {
                return fault(version, true, "no operation takes " + body.name().local(), null);
            }
            check(body);
            return answer(offered, body, version);
        } catch (XmlProblem e) {
            invalid.add(e.sentence());
            return fault(version, true, e.sentence(), null);
        } catch (ExpressionProblem e) {
            return fault(version, false, "a rule of the simulator is wrong: " + e.getMessage(), null);
        }
    }

    private void check(Node body) {
        List<String> problems =
                contract.check().problems(NodeWriter.write(body, false).getBytes(StandardCharsets.UTF_8));
        if (!problems.isEmpty() && invalid.size() < 1_000) {
            invalid.add(body.name().local() + ": " + problems.get(0));
        }
    }

    private Offered find(Node body, SoapVersion version) {
        Offered other = null;
        for (Offered offered : contract.operations()) {
            boolean takes = offered.operation().input().body().stream()
                    .anyMatch(e -> e.name().equals(body.name()));
            if (takes && offered.port().soapVersion() == version) {
                return offered;
            }
            other = takes && other == null ? offered : other;
        }
        return other;
    }

    private Answer answer(Offered offered, Node request, SoapVersion version) throws ExpressionProblem, XmlProblem {
        Operation operation = offered.operation();
        Scope scope = Scope.empty().with("data", data).with("request", request);
        for (int i = 0; i < rules.size(); i++) {
            SimulatorRule rule = rules.get(i);
            if (!rule.operation().equals(operation.key()) || !holds(rule, scope)) {
                continue;
            }
            Scope bound = scope;
            for (Map.Entry<String, String> entry : new TreeMap<>(rule.bind()).entrySet()) {
                Node node = expression(entry.getValue()).node(scope);
                bound = node == null ? bound : bound.with(entry.getKey(), node);
            }
            int delay = rule.delayMillis() == null ? 0 : rule.delayMillis();
            if (rule.fault() != null) {
                Message detail = operation.faults().stream()
                        .filter(f -> f.name().equals(rule.fault()))
                        .map(Operation.Fault::message)
                        .findFirst()
                        .orElse(Message.EMPTY);
                byte[] written = write(i, rule, detail, null, bound);
                Node tree = written.length == 0
                        ? null
                        : NodeReader.read(new java.io.ByteArrayInputStream(written), "detail", XmlLimits.MESSAGES);
                Answer fault = fault(version, true, rule.reason(), tree);
                return new Answer(fault.status(), fault.contentType(), fault.body(), delay);
            }
            return new Answer(200, type(version), write(i, rule, operation.output(), version, bound), delay);
        }
        if (operation.output() == null) {
            return new Answer(202, type(version), new byte[0], 0);
        }
        ExampleMessage.Wish wish =
                new ExampleMessage.Wish(true, Picks.NONE, operation.output().encoded());
        List<Node> example = operation.output().body().stream()
                .map(e -> contract.example(e, wish).root())
                .toList();
        String text = Envelopes.write(version, List.of(), example, false);
        return new Answer(200, type(version), text.getBytes(StandardCharsets.UTF_8), 0);
    }

    private boolean holds(SimulatorRule rule, Scope scope) throws ExpressionProblem {
        return rule.when() == null
                || rule.when().isBlank()
                || expression(rule.when()).test(scope);
    }

    private Expressions.Compiled expression(String text) throws ExpressionProblem {
        Expressions.Compiled known = compiled.get(text);
        if (known == null) {
            known = expressions.compile(text, null);
            compiled.put(text, known);
        }
        return known;
    }

    private byte[] write(int index, SimulatorRule rule, Message message, SoapVersion version, Scope scope)
            throws ExpressionProblem {
        FillPlan plan = plans.computeIfAbsent(
                index + " " + version,
                k -> FillPlan.compile(contract, message, version, rule.fills(), null, expressions));
        ByteOut out = new ByteOut();
        List<MappingProblem> problems = plan.write(scope, out);
        if (!problems.isEmpty()) {
            throw new ExpressionProblem(problems.get(0).sentence(), 0);
        }
        return out.bytes();
    }

    private static String type(SoapVersion version) {
        return (version == SoapVersion.SOAP_12 ? "application/soap+xml" : "text/xml") + "; charset=utf-8";
    }

    private static Answer fault(SoapVersion version, boolean sender, String reason, Node detail) {
        String text = Envelopes.fault(version, sender, reason == null ? "" : reason, detail);
        int status = version == SoapVersion.SOAP_12 && sender ? 400 : 500;
        return new Answer(status, type(version), text.getBytes(StandardCharsets.UTF_8), 0);
    }
}
