package wirekettle.core.soap;

import java.io.ByteArrayInputStream;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.contract.HttpBinding;
import wirekettle.core.contract.Operation;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * Calls an operation of an HTTP GET or POST binding (WSDL 1.1, 4): the message is the element whose children are the
 * parts; they travel in the address or in the body, and the answer is XML or text.
 */
public final class HttpCaller implements Caller {
    private final Transport transport;
    private final Reach reach;
    private final Operation operation;
    private final Transport.Limits limits;

    /** Makes a caller for an operation at an endpoint. */
    public HttpCaller(Transport transport, Reach reach, Operation operation, Transport.Limits limits) {
        this.transport = transport;
        this.reach = reach;
        this.operation = operation;
        this.limits = limits;
    }

    @Override
    public Result call(byte[] message) {
        Masking masking = reach.masking();
        Transport.Answer answer = null;
        byte[] sent = masking.mask(shown(reach.address(), operation, message));
        try {
            answer = transport.send(request(reach.address(), operation, message, limits));
            Reply reply = understand(answer);
            return new Result(sent, masking.mask(text(answer)), List.of(), answer, reply, null, null);
        } catch (CallFailure failure) {
            byte[] received = answer == null ? null : masking.mask(text(answer));
            return new Result(sent, received, List.of(), answer, null, failure.masked(masking), null);
        } catch (XmlProblem e) {
            String why = "the message cannot be read back: " + e.getMessage();
            CallFailure failure = new CallFailure(FailureClass.MAPPING, "bad message", why, false, false, null);
            return new Result(sent, null, List.of(), null, null, failure, null);
        }
    }

    /** Returns the request a message becomes, as it is shown: method and address, and the content below. */
    static byte[] shown(String address, Operation operation, byte[] message) {
        try {
            Transport.Request request = request(address, operation, message, null);
            String head = request.method() + " " + request.address() + "\n";
            String body = new String(request.body(), StandardCharsets.UTF_8);
            return (body.isEmpty() ? head : head + "\n" + body).getBytes(StandardCharsets.UTF_8);
        } catch (XmlProblem e) {
            return message;
        }
    }

    private static Transport.Request request(
            String address, Operation operation, byte[] message, Transport.Limits limits) throws XmlProblem {
        HttpBinding binding = operation.http();
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
        if (!success) {
            String page = SoapCaller.start(answer.body());
            throw SoapCaller.status(answer, page.isEmpty() ? "without any content" : "with " + page);
        }
        if (operation.output() == null || operation.output().body().isEmpty()) {
            return new Reply(List.of(), List.of(), null);
        }
        if (answer.body().length == 0) {
            throw SoapCaller.reply("empty answer", "the service answered " + answer.status() + " without any content");
        }
        try {
            return read(
                    operation, operation.http().xmlReply() ? WireText.withoutDeclaration(text(answer)) : text(answer));
        } catch (XmlProblem e) {
            throw SoapCaller.reply(
                    "answer not readable",
                    "the answer cannot be read at line " + e.line() + " column " + e.column() + ": " + e.getMessage());
        }
    }

    static Reply read(Operation operation, byte[] content) throws XmlProblem {
        if (!operation.http().xmlReply()) {
            Name name = operation.output().body().get(0).name();
            return new Reply(List.of(), List.of(Node.leaf(name, new String(content, StandardCharsets.UTF_8))), null);
        }
        Node root = NodeReader.read(new ByteArrayInputStream(content), "reply", XmlLimits.MESSAGES);
        return new Reply(List.of(), List.of(root), null);
    }

    private static byte[] text(Transport.Answer answer) {
        return WireText.utf8(answer.body(), answer.headers().getOrDefault("content-type", ""));
    }
}
