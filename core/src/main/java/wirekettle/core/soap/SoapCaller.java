package wirekettle.core.soap;

import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import wirekettle.core.contract.Operation;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.xml.XmlProblem;

/** Calls one operation: the right headers for the SOAP version, and every answer put in its class. */
public final class SoapCaller implements Caller {
    private final Transport transport;
    private final String address;
    private final SoapVersion version;
    private final boolean oneWay;
    private final Map<String, String> headers;
    private final Transport.Limits limits;

    /** Makes a caller for an operation at an address. */
    public SoapCaller(
            Transport transport, String address, SoapVersion version, Operation operation, Transport.Limits limits) {
        this.transport = transport;
        this.address = address;
        this.version = version;
        this.oneWay = operation.output() == null;
        this.limits = limits;
        this.headers = headers(version, operation.action());
    }

    /** Returns the HTTP headers: SOAP 1.1 carries SOAPAction (6.1.1), SOAP 1.2 an action parameter (part 2, 7.1.4). */
    public static Map<String, String> headers(SoapVersion version, String action) {
        Map<String, String> headers = new LinkedHashMap<>();
        if (version == SoapVersion.SOAP_12) {
            String parameter = action.isEmpty() ? "" : "; action=\"" + action + "\"";
            headers.put("Content-Type", "application/soap+xml; charset=utf-8" + parameter);
        } else {
            headers.put("Content-Type", "text/xml; charset=utf-8");
            headers.put("SOAPAction", "\"" + action + "\"");
        }
        headers.put("Accept", "text/xml, application/soap+xml");
        headers.put("Accept-Encoding", "gzip");
        return headers;
    }

    @Override
    public Result call(byte[] envelope) {
        Transport.Answer answer = null;
        try {
            answer = transport.send(new Transport.Request(address, headers, envelope, limits));
            return new Result(answer, understand(answer), null);
        } catch (CallFailure failure) {
            return new Result(answer, null, failure);
        }
    }

    private Reply understand(Transport.Answer answer) throws CallFailure {
        boolean success = answer.status() >= 200 && answer.status() < 300;
        if (answer.body().length == 0) {
            if (success && oneWay) {
                return new Reply(java.util.List.of(), java.util.List.of(), null);
            }
            throw success
                    ? reply("empty answer", "the service answered " + answer.status() + " without any content")
                    : status(answer, "without any content");
        }
        Reply reply;
        try {
            reply = ReplyReader.read(answer.body());
        } catch (XmlProblem e) {
            if (!success) {
                throw status(answer, "with a page that is no SOAP: " + start(answer.body()));
            }
            throw reply(
                    e.code().equals("no-envelope") ? "no envelope" : "answer not readable",
                    "the answer cannot be read at line " + e.line() + " column " + e.column() + ": " + e.getMessage());
        }
        if (reply.fault() != null) {
            SoapFault fault = reply.fault();
            throw new CallFailure(
                    FailureClass.FAULT, fault.label(), fault.code() + ": " + fault.reason(), true, true, fault);
        }
        if (!success) {
            throw status(answer, "with an envelope that is no fault");
        }
        return reply;
    }

    static CallFailure reply(String cause, String message) {
        return new CallFailure(FailureClass.REPLY, cause, message, true, true, null);
    }

    static CallFailure status(Transport.Answer answer, String what) {
        return new CallFailure(
                FailureClass.HTTP_STATUS,
                "HTTP " + answer.status(),
                "the service answered HTTP " + answer.status() + " " + what,
                true,
                true,
                null);
    }

    static String start(byte[] body) {
        String text = new String(body, 0, Math.min(body.length, 400), StandardCharsets.UTF_8)
                .replaceAll("<[^>]*>", " ")
                .strip()
                .replaceAll("\\s+", " ");
        return text.length() > 120 ? text.substring(0, 120) + "…" : text;
    }

    /** Returns the SOAP version spoken. */
    public SoapVersion version() {
        return version;
    }
}
