package wirekettle.core.simulate;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.mapping.ByteOut;
import wirekettle.core.mapping.ExpressionProblem;
import wirekettle.core.mapping.Expressions;
import wirekettle.core.mapping.FillPlan;
import wirekettle.core.mapping.MappingProblem;
import wirekettle.core.mapping.Scope;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.ExampleEnvelope;
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
                return fault(version, true, "the request has no body", null, null);
            }
            Offered offered = find(body, version);
            if (offered == null) {
                return fault(version, true, "no operation takes " + body.name().local(), null, null);
            }
            request.headers().forEach(this::check);
            check(body);
            return answer(offered, Node.branch(Name.of("header"), request.headers()), body, version);
        } catch (XmlProblem e) {
            invalid.add(e.sentence());
            return fault(version, true, e.sentence(), null, null);
        } catch (ExpressionProblem e) {
            return fault(version, false, "a rule of the simulator is wrong: " + e.getMessage(), null, null);
        }
    }

    /**
     * Answers a request of an HTTP binding (WSDL 1.1, 4).
     *
     * @param verb GET or POST
     * @param path what follows the service's address
     * @param pairs the name and value pairs of query or form, in order
     * @return the answer, null when no operation is called that way
     */
    public Answer answer(String verb, String path, List<Map.Entry<String, String>> pairs) {
        for (Offered offered : contract.operations()) {
            HttpBinding http = offered.operation().http();
            if (http != null && http.verb().equals(verb) && path.endsWith(http.location())) {
                received.incrementAndGet();
                Node.Builder request =
                        Node.build(offered.operation().input().body().get(0).name());
                pairs.forEach(pair -> request.add(pair.getKey(), pair.getValue()));
                Node body = request.done();
                check(body);
                try {
                    return answer(offered, Node.branch(Name.of("header"), List.of()), body, null);
                } catch (XmlProblem | ExpressionProblem e) {
                    return new Answer(500, "text/plain", e.getMessage().getBytes(StandardCharsets.UTF_8), 0);
                }
            }
        }
        return null;
    }

    private void check(Node element) {
        List<String> problems =
                contract.check().problems(NodeWriter.write(element, false).getBytes(StandardCharsets.UTF_8));
        if (!problems.isEmpty() && invalid.size() < 1_000) {
            invalid.add(element.name().local() + ": " + problems.get(0));
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

    private Answer answer(Offered offered, Node header, Node request, SoapVersion version)
            throws ExpressionProblem, XmlProblem {
        Operation operation = offered.operation();
        Scope scope = Scope.empty().with("data", data).with("header", header).with("request", request);
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
                Answer fault = fault(i, rule, operation, version, bound);
                return new Answer(fault.status(), fault.contentType(), fault.body(), delay);
            }
            byte[] written = write(i, rule, operation.output(), version, bound);
            if (Boolean.TRUE.equals(rule.multiReference())) {
                written = MultiReferenceText.of(written);
            }
            return new Answer(200, type(version), written, delay);
        }
        if (operation.output() == null) {
            return new Answer(202, type(version), new byte[0], 0);
        }
        ExampleEnvelope example = ExampleEnvelope.of(contract, operation.output(), true, Picks.NONE);
        String text = new ExampleEnvelope(List.of(), example.body(), List.of()).text(version, false);
        return new Answer(200, type(version), text.getBytes(StandardCharsets.UTF_8), 0);
    }

    private Answer fault(int index, SimulatorRule rule, Operation operation, SoapVersion version, Scope scope)
            throws ExpressionProblem, XmlProblem {
        ElementDecl header = operation.input().headerFaults().stream()
                .filter(e -> e.name().local().equals(rule.fault()))
                .findFirst()
                .orElse(null);
        Message detail = header != null
                ? new Message(rule.fault(), List.of(), List.of(header))
                : operation.faults().stream()
                        .filter(f -> f.name().equals(rule.fault()))
                        .map(Operation.Fault::message)
                        .findFirst()
                        .orElse(Message.EMPTY);
        byte[] written = write(index, rule, detail, null, scope);
        Node tree = written.length == 0
                ? null
                : NodeReader.read(new java.io.ByteArrayInputStream(written), "detail", XmlLimits.MESSAGES);
        return fault(version, true, rule.reason(), header == null ? tree : null, header == null ? null : tree);
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

    private static Answer fault(SoapVersion version, boolean sender, String reason, Node detail, Node header) {
        if (version == null) {
            return new Answer(400, "text/plain", String.valueOf(reason).getBytes(StandardCharsets.UTF_8), 0);
        }
        String text = Envelopes.fault(version, sender, reason == null ? "" : reason, detail, header);
        int status = version == SoapVersion.SOAP_12 && sender ? 400 : 500;
        return new Answer(status, type(version), text.getBytes(StandardCharsets.UTF_8), 0);
    }
}
