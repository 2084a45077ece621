package wirekettle.core.simulate;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.atomic.AtomicLong;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.request.ByteOut;
import wirekettle.core.request.ConstantFills;
import wirekettle.core.request.FillPlan;
import wirekettle.core.schema.BinaryElements;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.Picks;
import wirekettle.core.soap.Caller;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.ExampleEnvelope;
import wirekettle.core.soap.HttpText;
import wirekettle.core.soap.Reply;
import wirekettle.core.soap.ReplyReader;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Answers every operation of a contract: by the first rule that holds, else with a valid example. Thread-safe. */
public final class Simulator {
    private static final List<String> FOREIGN = List.of(
            "http://docs.oasis-open.org/wss/",
            "http://www.w3.org/2005/08/addressing",
            "http://www.w3.org/2000/09/xmldsig");

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
     * @param told what was asked and which rule answered
     */
    public record Answer(int status, String contentType, byte[] body, int delayMillis, Trace told) {
        /** An answer about which nothing is known. */
        public Answer(int status, String contentType, byte[] body, int delayMillis) {
            this(status, contentType, body, delayMillis, new Trace(null, null, null));
        }

        private Answer of(Operation operation, Integer rule, List<String> problems) {
            String problem = problems.isEmpty() ? null : problems.get(0);
            return new Answer(status, contentType, body, delayMillis, new Trace(operation.key(), rule, problem));
        }
    }

    /**
     * What is reported about an answer.
     *
     * @param operation the operation asked for, null when none was found
     * @param rule the place of the rule that answered, from 0; null for an example
     * @param problem what was wrong with the request, or null
     */
    public record Trace(String operation, Integer rule, String problem) {}

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

    /**
     * Answers one request as it came over HTTP: with parts beside the envelope it is answered in the same way (MTOM).
     *
     * @param contentType its content type, null when it had none
     */
    public Answer answer(String contentType, byte[] content) {
        if (!Multipart.is(contentType)) {
            return answer(content);
        }
        try {
            List<Part> parts = Multipart.read(contentType, content);
            String envelope = Xop.unpack(
                    new String(parts.get(0).bytes(), StandardCharsets.UTF_8), parts.subList(1, parts.size()));
            Answer plain = answer(envelope.getBytes(StandardCharsets.UTF_8));
            String type = plain.contentType().replaceAll(";.*", "");
            Xop.Packed packed = Xop.pack(new String(plain.body(), StandardCharsets.UTF_8), binary());
            List<Part> answered = new ArrayList<>();
            answered.add(new Part(
                    "answer@simulator.invalid",
                    "application/xop+xml; charset=utf-8; type=\"" + type + "\"",
                    packed.envelope().getBytes(StandardCharsets.UTF_8)));
            answered.addAll(packed.parts());
            Multipart.Written written =
                    Multipart.write(answered, "; type=\"application/xop+xml\"; start-info=\"" + type + "\"");
            return new Answer(
                    plain.status(),
                    written.contentType(),
                    written.content().bytes(),
                    plain.delayMillis(),
                    plain.told());
        } catch (Multipart.Broken e) {
            return fault(SoapVersion.SOAP_11, true, e.getMessage(), null, null);
        }
    }

    private Set<Name> binary() {
        return BinaryElements.of(
                contract.schemas(),
                contract.operations().stream()
                        .flatMap(offered -> offered.operation().elements().stream())
                        .toList());
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
            List<String> problems = new ArrayList<>();
            request.headers().forEach(header -> problems.addAll(check(header)));
            problems.addAll(check(body));
            return answer(offered, Node.branch(Name.of("header"), request.headers()), body, version, problems);
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
            if (http != null
                    && http.described() == null
                    && http.verb().equals(verb)
                    && path.endsWith(http.location())) {
                received.incrementAndGet();
                Node.Builder request =
                        Node.build(offered.operation().input().body().get(0).name());
                pairs.forEach(pair -> request.add(pair.getKey(), pair.getValue()));
                Node body = request.done();
                List<String> problems = check(body);
                try {
                    return answer(offered, Node.branch(Name.of("header"), List.of()), body, null, problems);
                } catch (XmlProblem | ExpressionProblem e) {
                    return new Answer(500, "text/plain", e.getMessage().getBytes(StandardCharsets.UTF_8), 0);
                }
            }
        }
        return null;
    }

    /**
     * Answers a request of an operation described for HTTP.
     *
     * @param request the request as it came, its target behind the service's address
     * @return the answer, null when no operation is called that way
     */
    public Answer answer(HttpText request) {
        String path = request.target().replaceFirst("\\?.*", "");
        for (Offered offered : contract.operations()) {
            HttpBinding http = offered.operation().http();
            boolean its = http != null
                    && http.described() != null
                    && http.verb().equals(request.method())
                    && HttpText.inPath(http.location(), path) != null;
            if (its) {
                received.incrementAndGet();
                try {
                    Node body = request.message(contract, offered);
                    return answer(offered, Node.branch(Name.of("header"), List.of()), body, null, check(body));
                } catch (XmlProblem e) {
                    invalid.add(e.sentence());
                    return new Answer(400, "text/plain", e.sentence().getBytes(StandardCharsets.UTF_8), 0)
                            .of(offered.operation(), null, List.of(e.sentence()));
                } catch (ExpressionProblem e) {
                    return new Answer(500, "text/plain", e.getMessage().getBytes(StandardCharsets.UTF_8), 0);
                }
            }
        }
        return null;
    }

    /** Returns an answer of an operation described for HTTP as it travels: JSON where the description says so. */
    private Answer travelling(Offered offered, Message message, int status, byte[] xml) throws XmlProblem {
        String type = offered.operation().http().described().replyType();
        boolean json = status >= 300 || HttpBinding.Described.json(type);
        if (xml.length == 0 || message.body().isEmpty()) {
            return new Answer(status, json ? "application/json" : type, new byte[0], 0);
        }
        Node tree = NodeReader.read(new java.io.ByteArrayInputStream(xml), "reply", XmlLimits.MESSAGES);
        byte[] body = json
                ? Caller.json(tree, contract.sheet(message.body().get(0)))
                : HttpBinding.Described.xml(type) ? xml : tree.text().getBytes(StandardCharsets.UTF_8);
        return new Answer(status, json ? "application/json" : type, body, 0);
    }

    /** Headers of other standards, as of security and addressing, are none of the contract's. */
    private List<String> check(Node element) {
        if (FOREIGN.stream().anyMatch(element.name().namespace()::startsWith)) {
            return List.of();
        }
        List<String> problems =
                contract.check().problems(NodeWriter.write(element, false).getBytes(StandardCharsets.UTF_8)).stream()
                        .map(problem -> element.name().local() + ": " + problem)
                        .toList();
        if (!problems.isEmpty() && invalid.size() < 1_000) {
            invalid.add(problems.get(0));
        }
        return problems;
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

    private Answer answer(Offered offered, Node header, Node request, SoapVersion version, List<String> problems)
            throws ExpressionProblem, XmlProblem {
        Operation operation = offered.operation();
        Scope scope = Scope.empty().with("data", data).with("header", header).with("request", request);
        for (int i = 0; i < rules.size(); i++) {
            SimulatorRule rule = rules.get(i);
            if (!rule.operation().equals(operation.key()) || !rule.matches(header, request) || !holds(rule, scope)) {
                continue;
            }
            Scope bound = scope;
            for (Map.Entry<String, String> entry : new TreeMap<>(rule.bind()).entrySet()) {
                Node node = expression(entry.getValue()).node(scope);
                bound = node == null ? bound : bound.inside(entry.getKey(), node);
            }
            int delay = rule.delayMillis() == null ? 0 : rule.delayMillis();
            boolean described = operation.http() != null && operation.http().described() != null;
            if (described) {
                Operation.Fault fault = operation.faults().stream()
                        .filter(f -> f.name().equals(rule.fault()))
                        .findFirst()
                        .orElse(null);
                Message message =
                        fault != null ? fault.message() : rule.fault() != null ? Message.EMPTY : operation.output();
                int status = rule.fault() == null ? 200 : status(rule.fault());
                byte[] written = message == null || message.body().isEmpty()
                        ? new byte[0]
                        : write(i, rule, message, null, bound);
                Answer plain = travelling(offered, message == null ? Message.EMPTY : message, status, written);
                return new Answer(plain.status(), plain.contentType(), plain.body(), delay).of(operation, i, problems);
            }
            if (rule.fault() != null) {
                Answer fault = fault(i, rule, operation, version, bound);
                return new Answer(fault.status(), fault.contentType(), fault.body(), delay).of(operation, i, problems);
            }
            if (operation.output() == null) {
                return new Answer(202, type(version), new byte[0], delay).of(operation, i, problems);
            }
            byte[] written = write(i, rule, operation.output(), version, bound);
            if (Boolean.TRUE.equals(rule.multiReference())) {
                written = MultiReferenceText.of(written);
            }
            return new Answer(200, type(version), written, delay).of(operation, i, problems);
        }
        if (operation.output() == null) {
            return new Answer(202, type(version), new byte[0], 0).of(operation, null, problems);
        }
        ExampleEnvelope example = ExampleEnvelope.of(contract, operation.output(), true, Picks.NONE);
        String text = example.text(version, false);
        if (operation.http() != null && operation.http().described() != null) {
            return travelling(offered, operation.output(), 200, text.getBytes(StandardCharsets.UTF_8))
                    .of(operation, null, problems);
        }
        return new Answer(200, type(version), text.getBytes(StandardCharsets.UTF_8), 0).of(operation, null, problems);
    }

    /** The status a fault of a description is for, as {@code HTTP 404}; 500 where it does not tell. */
    private static int status(String fault) {
        String digits = fault.replaceAll("\\D", "");
        return digits.length() == 3 ? Integer.parseInt(digits) : fault.contains("4XX") ? 400 : 500;
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
                k -> FillPlan.compile(contract, message, version, fills(rule, message), null, expressions));
        ByteOut out = new ByteOut();
        List<MappingProblem> problems = plan.write(scope, out);
        if (!problems.isEmpty()) {
            throw new ExpressionProblem(problems.get(0).sentence(), 0);
        }
        return out.bytes();
    }

    /** Returns a rule's fills, with an example's constants for what they leave open where the rule wants that. */
    private List<Fill> fills(SimulatorRule rule, Message message) {
        if (!Boolean.TRUE.equals(rule.example()) || message.body().isEmpty()) {
            return rule.fills();
        }
        // what a rule fills is there, so that what it must have beside it is completed too, also where it repeats
        Picks picks = Picks.of(rule.fills().stream().map(Fill::target).toList());
        ExampleEnvelope example = ExampleEnvelope.of(contract, message, false, picks);
        SoapVersion version = message.headers().isEmpty() ? null : SoapVersion.SOAP_11;
        List<Fill> all = new ArrayList<>();
        try {
            String text = version == null
                    ? new ExampleEnvelope(List.of(), example.body(), List.of()).text(null, false)
                    : example.text(version, false);
            for (Fill fill : ConstantFills.of(contract, message, version, text).fills()) {
                boolean given = rule.fills().stream()
                        .anyMatch(own -> own.target().equals(fill.target())
                                || own.target().startsWith(fill.target() + "/"));
                if (!given) {
                    all.add(fill.renamed("example-" + fill.id()));
                }
            }
        } catch (XmlProblem e) {
            throw new IllegalStateException("an example that is no XML", e);
        }
        all.addAll(rule.fills());
        return all;
    }

    private static String type(SoapVersion version) {
        return version == null
                ? "text/xml; charset=utf-8"
                : (version == SoapVersion.SOAP_12 ? "application/soap+xml" : "text/xml") + "; charset=utf-8";
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
