package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.Operation;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * Calls an operation over plain HTTP: of an HTTP GET or POST binding (WSDL 1.1, 4), where the message is the element
 * whose children are the parts, or one described for HTTP, where it holds the parameters and the body.
 */
public final class HttpCaller implements Caller {
    private final Transport transport;
    private final EndpointReach reach;
    private final Contract contract;
    private final Offered offered;
    private final Operation operation;
    private final Transport.Limits limits;

    /** Makes a caller for an operation at an endpoint. */
    public HttpCaller(
            Transport transport, EndpointReach reach, Contract contract, Offered offered, Transport.Limits limits) {
        this.transport = transport;
        this.reach = reach;
        this.contract = contract;
        this.offered = offered;
        this.operation = offered.operation();
        this.limits = limits;
    }

    /** Sends a message as it was written, or a text of {@link HttpText} as it was typed. */
    @Override
    public Result call(byte[] given, CallRoom room) {
        Masking masking = reach.masking();
        Transport.Answer answer = null;
        byte[] sent = masking.mask(shown(reach.address(), contract, offered, given));
        try {
            byte[] message = FileMark.inMemory(given, reach.folders());
            answer = transport.send(
                    request(reach.address(), contract, offered, message, limits).in(room));
            Reply reply = understand(answer).masked(masking);
            return new Result(sent, masking.mask(text(answer)), List.of(), answer, reply, null, null);
        } catch (CallFailure failure) {
            byte[] received = answer == null ? null : masking.mask(text(answer));
            return new Result(sent, received, List.of(), answer, null, failure.masked(masking), null);
        } catch (XmlProblem e) {
            return unsent(sent, "bad message", "the message cannot be read back: " + e.getMessage());
        } catch (Secrets.SecretMissing e) {
            return unsent(sent, "secret missing", e.getMessage());
        } catch (Folders.NoSuchFile e) {
            return unsent(sent, "file not there", "a file of the message " + e.getMessage());
        }
    }

    private static Result unsent(byte[] sent, String cause, String why) {
        CallFailure failure = new CallFailure(FailureClass.MAPPING, cause, why, false, false, null);
        return new Result(sent, null, List.of(), null, null, failure, null);
    }

    /** Returns the request a message becomes, as it is shown: method and address, and the content below. */
    static byte[] shown(String address, Contract contract, Offered offered, byte[] message) {
        try {
            Transport.Request request = request(address, contract, offered, message, null);
            StringBuilder head = new StringBuilder(request.method() + " " + request.address() + "\n");
            if (offered.operation().http().described() != null) {
                request.headers().forEach((name, value) -> {
                    if (!name.equals("Accept") && !name.equals("Accept-Encoding")) {
                        head.append(name).append(": ").append(value).append('\n');
                    }
                });
            }
            String body = new String(request.body(), StandardCharsets.UTF_8);
            return (body.isEmpty() ? head.toString() : head + "\n" + body).getBytes(StandardCharsets.UTF_8);
        } catch (XmlProblem e) {
            return message;
        }
    }

    private static Transport.Request request(
            String address, Contract contract, Offered offered, byte[] message, Transport.Limits limits)
            throws XmlProblem {
        HttpBinding binding = offered.operation().http();
        if (binding.described() != null) {
            return described(address, contract, offered, message, limits);
        }
        Node parts = NodeReader.read(new ByteArrayInputStream(message), "request", XmlLimits.MESSAGES);
        String at = address + binding.location();
        Map<String, String> headers = new LinkedHashMap<>();
        headers.put("Accept", "text/xml, application/xml, text/plain, */*");
        headers.put("Accept-Encoding", "gzip");
        byte[] body = new byte[0];
        switch (binding.input()) {
            case QUERY -> {
                String pairs = pairs(parts);
                at = pairs.isEmpty() ? at : at + (at.indexOf('?') < 0 ? "?" : "&") + pairs;
            }
            case PATH -> {
                for (Node part : parts.children()) {
                    at = at.replace(
                            "(" + part.name().local() + ")",
                            encoded(part.text()).replace("+", "%20"));
                }
            }
            case FORM -> {
                headers.put("Content-Type", "application/x-www-form-urlencoded; charset=utf-8");
                body = pairs(parts).getBytes(StandardCharsets.UTF_8);
            }
            default -> {
                headers.put("Content-Type", "text/xml; charset=utf-8");
                body = message;
            }
        }
        return new Transport.Request(binding.verb(), at, headers, body, limits);
    }

    private static Transport.Request described(
            String address, Contract contract, Offered offered, byte[] message, Transport.Limits limits)
            throws XmlProblem {
        String text = new String(message, StandardCharsets.UTF_8);
        HttpText request = HttpText.is(offered, text)
                ? HttpText.parse(text)
                : HttpText.of(
                        contract,
                        offered,
                        NodeReader.read(new ByteArrayInputStream(message), "request", XmlLimits.MESSAGES),
                        false);
        Map<String, String> headers = new LinkedHashMap<>();
        String reply = offered.operation().http().described().replyType();
        headers.put("Accept", reply == null ? "*/*" : reply + ", */*;q=0.5");
        headers.put("Accept-Encoding", "gzip");
        headers.putAll(request.headers());
        return new Transport.Request(
                request.method(),
                address + request.target(),
                headers,
                request.body().getBytes(StandardCharsets.UTF_8),
                limits);
    }

    private static String pairs(Node parts) {
        StringBuilder out = new StringBuilder();
        for (Node part : parts.children()) {
            List<Node> values = part.children().isEmpty() ? List.of(part) : part.children();
            for (Node value : values) {
                out.append(out.isEmpty() ? "" : "&");
                out.append(encoded(part.name().local())).append('=').append(encoded(value.text()));
            }
        }
        return out.toString();
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    private Reply understand(Transport.Answer answer) throws CallFailure {
        boolean success = answer.status() >= 200 && answer.status() < 300;
        byte[] text = text(answer);
        if (!success) {
            throw refused(answer, text);
        }
        if (operation.output() == null || operation.output().body().isEmpty()) {
            return new Reply(List.of(), List.of(), null);
        }
        if (answer.body().length == 0) {
            throw SoapCaller.reply("empty answer", "the service answered " + answer.status() + " without any content");
        }
        try {
            return read(operation, operation.http().xmlReply() ? WireText.withoutDeclaration(text) : text);
        } catch (XmlProblem e) {
            throw SoapCaller.reply(
                    "answer not readable",
                    "the answer cannot be read at line " + e.line() + " column " + e.column() + ": " + e.getMessage());
        }
    }

    /** An answer that is no success: a fault where the contract describes one for its status. */
    private CallFailure refused(Transport.Answer answer, byte[] text) {
        String page = SoapCaller.start(text);
        CallFailure plain = SoapCaller.status(answer, page.isEmpty() ? "without any content" : "with " + page);
        for (Operation.Fault fault : operation.faults()) {
            boolean its = fault.name().equals("HTTP " + answer.status())
                    || fault.name().equals("HTTP " + answer.status() / 100 + "XX")
                    || fault.name().equals("HTTP default");
            if (its && operation.http().described() != null) {
                try {
                    Name name = fault.message().body().get(0).name();
                    Node detail = JsonReader.read(text, name, "answer", XmlLimits.MESSAGES);
                    SoapFault told = new SoapFault(
                            Integer.toString(answer.status()), plain.getMessage(), List.of(detail), List.of());
                    return new CallFailure(
                            FailureClass.FAULT, "HTTP " + answer.status(), plain.getMessage(), true, true, told);
                } catch (XmlProblem e) {
                    return plain;
                }
            }
        }
        return plain;
    }

    static Reply read(Operation operation, byte[] content) throws XmlProblem {
        Name name = operation.output().body().get(0).name();
        HttpBinding.Described described = operation.http().described();
        if (described != null && HttpBinding.Described.json(described.replyType())) {
            Node root = JsonReader.read(content, name, "reply", XmlLimits.MESSAGES);
            return new Reply(List.of(), List.of(root), null);
        }
        if (!operation.http().xmlReply()) {
            return new Reply(List.of(), List.of(Node.leaf(name, new String(content, StandardCharsets.UTF_8))), null);
        }
        Node root = NodeReader.read(new ByteArrayInputStream(content), "reply", XmlLimits.MESSAGES);
        return new Reply(List.of(), List.of(described == null ? root : HttpText.within(root, name)), null);
    }

    private static byte[] text(Transport.Answer answer) {
        return WireText.utf8(answer.body(), answer.headers().getOrDefault("content-type", ""));
    }
}
