package wirekettle.server.serve;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.jboss.logging.Logger;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.flow.offer.Mirror;
import wirekettle.core.flow.offer.OwnContract;
import wirekettle.core.flow.run.Answer;
import wirekettle.core.schema.BinaryElements;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.Envelopes;
import wirekettle.core.soap.FaultCode;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.server.web.Json;

/**
 * What a caller gets as SOAP.
 *
 * @param status the HTTP status
 * @param type its content type, null where there is no content
 * @param body the envelope, or a multipart document
 * @param headers other headers
 */
record SoapReply(int status, String type, byte[] body, Map<String, String> headers) {
    private static final Logger LOG = Logger.getLogger(SoapReply.class);
    private static final Set<String> NOT_OURS = Set.of("content-type", "content-length");
    private static final int SHOWN = 5;

    /** Returns a fault. */
    static SoapReply fault(SoapVersion version, FaultCode code, String reason) {
        return fault(version, code, reason, null, List.of(), Map.of());
    }

    private static SoapReply fault(
            SoapVersion version,
            FaultCode code,
            String reason,
            Node detail,
            List<Node> related,
            Map<String, String> headers) {
        String text = Envelopes.fault(version, code, reason, detail, related);
        // SOAP 1.1, 6.2: a fault has status 500; SOAP 1.2 part 2, 7.5.2.2: 400 where the sender is to blame
        int status = version == SoapVersion.SOAP_12 && code == FaultCode.SENDER ? 400 : 500;
        return new SoapReply(status, type(version), text.getBytes(StandardCharsets.UTF_8), headers);
    }

    private static String type(SoapVersion version) {
        return (version == SoapVersion.SOAP_12 ? "application/soap+xml" : "text/xml") + "; charset=utf-8";
    }

    /** Returns a fault that is told where nothing was read. */
    static SoapReply refused(SoapVersion version, Reply reply) {
        SoapReply fault = fault(
                version,
                reply.status() < 500 ? FaultCode.SENDER : FaultCode.RECEIVER,
                reason(json(reply)),
                null,
                List.of(),
                reply.headers());
        return new SoapReply(reply.status(), fault.type(), fault.body(), fault.headers());
    }

    /**
     * Returns what a flow said as an operation answers it.
     *
     * @param related headers that say which message is answered
     * @param packed whether binary values travel beside the envelope
     */
    static SoapReply of(
            Reply reply,
            SoapAddress at,
            Contract.Offered asked,
            SoapVersion version,
            List<Node> related,
            boolean packed) {
        if (reply.status() >= 400) {
            return failed(reply, at, asked, version, related);
        }
        if (asked.operation().output() == null) {
            return new SoapReply(202, null, new byte[0], own(reply.headers()));
        }
        try {
            List<Node> body =
                    Mirror.body(at.contract(), asked.operation().output(), record(reply.type(), reply.body()));
            List<String> problems = problems(at, body);
            if (!problems.isEmpty()) {
                // an answer from before a restart, or none where the contract has one
                LOG.warnf("an answer of %s does not fit its contract: %s", at.path(), problems.get(0));
                String why = "the answer does not fit the contract: " + shown(problems);
                return fault(version, FaultCode.RECEIVER, why, null, related, own(reply.headers()));
            }
            String envelope = Envelopes.write(version, related, body, false);
            return packed
                    ? packed(envelope, at, asked, version, reply)
                    : new SoapReply(
                            200, type(version), envelope.getBytes(StandardCharsets.UTF_8), own(reply.headers()));
        } catch (XmlProblem e) {
            return fault(version, FaultCode.RECEIVER, "the answer cannot be read: " + e.sentence());
        }
    }

    /** Says what is wrong with the answer of a flow before its record is done, null where it fits the contract. */
    static String wrong(Answer answer, SoapAddress at, Contract.Offered asked) {
        if (answer.status() >= 400 || asked.operation().output() == null) {
            return null;
        }
        try {
            String type = answer.form() == DocumentForm.XML ? "application/xml" : Reply.JSON;
            Node record = record(type, answer.body());
            List<String> problems =
                    problems(at, Mirror.body(at.contract(), asked.operation().output(), record));
            return problems.isEmpty() ? null : shown(problems);
        } catch (XmlProblem e) {
            return e.sentence();
        }
    }

    private static List<String> problems(SoapAddress at, List<Node> body) {
        return body.stream()
                .flatMap(
                        each -> at
                                .contract()
                                .check()
                                .problems(NodeWriter.write(each, false).getBytes(StandardCharsets.UTF_8))
                                .stream())
                .toList();
    }

    static String shown(List<String> problems) {
        return String.join("; ", problems.subList(0, Math.min(SHOWN, problems.size())))
                + (problems.size() > SHOWN ? "; " + (problems.size() - SHOWN) + " more" : "");
    }

    private static Map<String, String> own(Map<String, String> headers) {
        return headers.entrySet().stream()
                .filter(each -> !NOT_OURS.contains(each.getKey().toLowerCase(Locale.ROOT)))
                .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue));
    }

    private static SoapReply packed(
            String envelope, SoapAddress at, Contract.Offered asked, SoapVersion version, Reply reply) {
        String type = type(version).replaceFirst(";.*", "");
        Xop.Packed packed = Xop.pack(
                envelope,
                BinaryElements.of(at.contract().schemas(), asked.operation().elements()));
        List<Part> parts = new ArrayList<>();
        parts.add(new Part(
                "answer@wire-kettle.invalid",
                "application/xop+xml; charset=utf-8; type=\"" + type + "\"",
                packed.envelope().getBytes(StandardCharsets.UTF_8)));
        parts.addAll(packed.parts());
        Multipart.Written written =
                Multipart.write(parts, "; type=\"application/xop+xml\"; start-info=\"" + type + "\"");
        return new SoapReply(200, written.contentType(), written.content().bytes(), own(reply.headers()));
    }

    private static Node record(String type, String body) throws XmlProblem {
        Name name = Name.of("answer");
        if (body == null || body.isEmpty()) {
            return Node.build(name).done();
        }
        byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
        return type.endsWith("xml")
                ? NodeReader.read(new ByteArrayInputStream(bytes), "the answer", XmlLimits.MESSAGES)
                : JsonReader.read(bytes, name, "the answer", XmlLimits.MESSAGES);
    }

    /** A fault that is declared has its detail where the answer has a field called like it. */
    private static SoapReply failed(
            Reply reply, SoapAddress at, Contract.Offered asked, SoapVersion version, List<Node> related) {
        JsonNode said = json(reply);
        FaultCode code = reply.status() < 500 ? FaultCode.SENDER : FaultCode.RECEIVER;
        Node detail = null;
        try {
            Node record = record(reply.type(), reply.body());
            for (Operation.Fault fault : asked.operation().faults()) {
                for (ElementDecl part : fault.message().body()) {
                    Node its = at.own() && fault.name().equals(OwnContract.FAULT)
                            ? problem(said, reply)
                            : record.child(part.name().local());
                    if (its != null && detail == null && Mirror.holds(its)) {
                        detail =
                                Mirror.element(SheetField.of(part, at.contract().schemas()), its);
                    }
                }
            }
        } catch (XmlProblem e) {
            LOG.debugf("no detail: %s", e.sentence());
        }
        SoapReply fault = fault(version, code, reason(said), detail, related, own(reply.headers()));
        boolean later = reply.headers().containsKey("Retry-After");
        return later ? new SoapReply(reply.status(), fault.type(), fault.body(), fault.headers()) : fault;
    }

    private static Node problem(JsonNode said, Reply reply) {
        Node.Builder made = Node.build(Name.of(OwnContract.FAULT));
        for (String field : OwnContract.faultFields()) {
            String text = said.path(field).asText("");
            if (field.equals("code") && text.isEmpty()) {
                text = Integer.toString(reply.status());
            } else if (field.equals("detail")) {
                text = reason(said);
            }
            if (!text.isEmpty()) {
                made.add(field, text);
            }
        }
        return made.done();
    }

    private static JsonNode json(Reply reply) {
        try {
            return Json.read(reply.body(), new TypeReference<JsonNode>() {});
        } catch (RuntimeException e) {
            return JsonNodeFactory.instance.objectNode();
        }
    }

    private static String reason(JsonNode said) {
        for (String each : List.of("detail", "title", "message")) {
            if (!said.path(each).asText("").isBlank()) {
                return said.path(each).asText();
            }
        }
        return "it was not done";
    }
}
