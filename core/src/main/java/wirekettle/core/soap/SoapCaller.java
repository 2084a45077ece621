package wirekettle.core.soap;

import java.nio.charset.StandardCharsets;
import java.security.cert.X509Certificate;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.schema.BinaryElements;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyUnreadable;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;
import wirekettle.core.soap.security.SecurityFault;
import wirekettle.core.soap.security.SignedReply;
import wirekettle.core.soap.security.XmlSigning;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/** Calls one operation over SOAP: the message dressed as its endpoint wants it, every answer put in its class. */
public final class SoapCaller implements Caller {
    private final Transport transport;
    private final EndpointReach reach;
    private final boolean oneWay;
    private final Transport.Limits limits;
    private final Dressing dressing;
    private final List<X509Certificate> signers;

    /**
     * Makes a caller for an operation at an endpoint.
     *
     * @throws wirekettle.core.soap.security.Secrets.SecretMissing when a secret the endpoint uses does not exist
     * @throws IllegalArgumentException when a certificate of its settings cannot be read
     */
    public SoapCaller(
            Transport transport, EndpointReach reach, Contract contract, Offered offered, Transport.Limits limits) {
        this(
                transport,
                reach,
                new Dressing(
                        reach,
                        offered.port().soapVersion(),
                        offered.operation().action(),
                        reach.settings().mtom()
                                ? BinaryElements.of(
                                        contract.schemas(), offered.operation().elements())
                                : Set.of()),
                offered.operation().output() == null,
                limits);
    }

    private SoapCaller(
            Transport transport, EndpointReach reach, Dressing dressing, boolean oneWay, Transport.Limits limits) {
        this.transport = transport;
        this.reach = reach;
        this.dressing = dressing;
        this.oneWay = oneWay;
        this.limits = limits;
        try {
            this.signers = Certificates.ofPems(reach.settings().security().verifyReplies());
        } catch (KeyUnreadable e) {
            throw new IllegalArgumentException("the certificate replies must be signed with: " + e.getMessage(), e);
        }
    }

    /**
     * Returns a caller that asks for no operation at all: an envelope with an empty body and everything the endpoint's
     * settings add, which no service can take for a change of data.
     */
    public static SoapCaller probe(
            Transport transport, EndpointReach reach, SoapVersion version, Transport.Limits limits) {
        return new SoapCaller(transport, reach, new Dressing(reach, version, "", Set.of()), false, limits);
    }

    /** Returns a caller of whatever a message asks for, as of what signs on. */
    static SoapCaller bare(
            Transport transport, EndpointReach reach, SoapVersion version, String action, Transport.Limits limits) {
        return new SoapCaller(transport, reach, new Dressing(reach, version, action, Set.of()), false, limits);
    }

    @Override
    public long bytes(byte[] envelope) {
        try {
            return dressing.dress(envelope).content().length();
        } catch (XmlSigning.NotSignable | Folders.NoSuchFile | Secrets.SecretMissing e) {
            return envelope.length; // it will not be sent
        }
    }

    @Override
    public Result call(byte[] envelope, CallRoom room) {
        Masking masking = reach.masking();
        Dressing.Dressed dressed = null;
        Opened opened = null;
        Transport.Answer answer = null;
        byte[] sent = null;
        try {
            dressed = dressing.dress(envelope);
            sent = masking.mask(
                    dressed.envelope() == null
                            ? dressed.content().bytes()
                            : dressed.envelope().getBytes(StandardCharsets.UTF_8));
            answer = transport.send(new Transport.Request(
                    "POST", reach.address(), dressing.headers(dressed), dressed.content(), limits, room));
            Opened raw = open(answer);
            opened = raw.masked(masking);
            Reply reply = resolved(understand(answer, raw.envelope()), opened).masked(masking);
            genuine(raw);
            return new Result(
                    sent,
                    opened.shown(),
                    opened.attachments(),
                    answer,
                    reply,
                    null,
                    Addressing.note(reply, dressed.messageId()));
        } catch (CallFailure failure) {
            byte[] received = opened != null ? opened.shown() : answer == null ? null : masking.mask(answer.body());
            return new Result(
                    sent,
                    received,
                    opened == null ? List.of() : opened.attachments(),
                    answer,
                    null,
                    failure.masked(masking),
                    null);
        } catch (XmlSigning.NotSignable e) {
            return unsent(envelope, "not signable", e.getMessage());
        } catch (Secrets.SecretMissing e) {
            return unsent(envelope, "secret missing", e.getMessage());
        } catch (Folders.NoSuchFile e) {
            return unsent(envelope, "file not there", "a file of the message " + e.getMessage());
        }
    }

    private Result unsent(byte[] envelope, String cause, String why) {
        return new Result(
                reach.masking().mask(envelope),
                null,
                List.of(),
                null,
                null,
                new CallFailure(FailureClass.MAPPING, cause, why, false, false, null),
                null);
    }

    /** An answer's envelope in UTF-8, as it is read and as it is shown, and what came beside it. */
    private record Opened(byte[] envelope, byte[] shown, List<Part> attachments, boolean multipart) {
        /** Returns what may be shown and kept; the envelope is left, it is masked once it is read. */
        Opened masked(Masking masking) {
            return new Opened(
                    envelope,
                    masking.mask(shown),
                    attachments.stream()
                            .map(part -> new Part(part.id(), part.type(), masking.mask(part.content())))
                            .toList(),
                    multipart);
        }
    }

    private Opened open(Transport.Answer answer) throws CallFailure {
        String type = answer.headers().getOrDefault("content-type", "");
        if (!Multipart.is(type)) {
            byte[] text = WireText.utf8(answer.body(), type);
            return new Opened(text == answer.body() ? text : WireText.withoutDeclaration(text), text, List.of(), false);
        }
        try {
            List<Part> parts = answer.parts() == null ? Multipart.read(type, answer.body()) : answer.parts();
            Part root = parts.get(0);
            byte[] text = WireText.utf8(root.bytes(), root.type());
            return new Opened(
                    WireText.withoutDeclaration(text), text, List.copyOf(parts.subList(1, parts.size())), true);
        } catch (Multipart.Broken e) {
            throw broken(e);
        }
    }

    private static Reply resolved(Reply reply, Opened opened) throws CallFailure {
        try {
            return opened.multipart() ? reply.resolved(opened.attachments()) : reply;
        } catch (Multipart.Broken e) {
            throw broken(e);
        }
    }

    private static CallFailure broken(Multipart.Broken e) {
        return reply("broken multipart", e.getMessage());
    }

    /** A signature is over the message with its parts in it (XOP 1.0, 3): for that it is put together in memory. */
    private void genuine(Opened opened) throws CallFailure {
        if (signers.isEmpty() || opened.envelope().length == 0) {
            return;
        }
        try {
            byte[] whole = opened.attachments().isEmpty()
                    ? opened.envelope()
                    : Xop.unpack(new String(opened.envelope(), StandardCharsets.UTF_8), opened.attachments())
                            .getBytes(StandardCharsets.UTF_8);
            SignedReply.check(whole, signers, reach.clock().instant());
        } catch (SignedReply.NotGenuine e) {
            throw reply("reply not genuine", e.getMessage());
        } catch (Multipart.Broken e) {
            throw broken(e);
        }
    }

    private Reply understand(Transport.Answer answer, byte[] envelope) throws CallFailure {
        boolean success = answer.status() >= 200 && answer.status() < 300;
        if (envelope.length == 0) {
            if (success && oneWay) {
                return new Reply(List.of(), List.of(), null);
            }
            throw success
                    ? reply("empty answer", "the service answered " + answer.status() + " without any content")
                    : status(answer, "without any content");
        }
        Reply reply;
        try {
            reply = ReplyReader.read(envelope);
        } catch (XmlProblem e) {
            if (!success) {
                throw status(answer, "with a page that is no SOAP: " + start(envelope));
            }
            String type = answer.headers().getOrDefault("content-type", "");
            if (!type.isEmpty() && !type.toLowerCase(Locale.ROOT).contains("xml") && !Multipart.is(type)) {
                throw reply("no SOAP", "the answer is " + type + ", no SOAP: " + start(envelope));
            }
            throw reply(
                    e.code().equals("no-envelope") ? "no envelope" : "answer not readable",
                    "the answer cannot be read at line " + e.line() + " column " + e.column() + ": " + e.getMessage());
        }
        if (reply.fault() != null) {
            throw fault(reply.fault(), answer);
        }
        if (!success) {
            throw status(answer, "with an envelope that is no fault");
        }
        return reply;
    }

    private CallFailure fault(SoapFault fault, Transport.Answer answer) {
        String notUnderstood = "";
        for (Node header : fault.headers()) {
            if (header.name().local().equals("NotUnderstood")) {
                notUnderstood = "the header " + header.attribute("qname");
            }
        }
        SecurityFault told = SecurityFault.of(
                fault.code(), notUnderstood, answer.headers(), reach.clock().instant());
        String message = fault.code() + ": " + fault.reason();
        return told == null
                ? new CallFailure(FailureClass.FAULT, fault.label(), message, true, true, fault)
                : new CallFailure(
                        FailureClass.FAULT, told.cause(), told.advice() + ". It said: " + message, true, true, fault);
    }

    static CallFailure reply(String cause, String message) {
        return new CallFailure(FailureClass.REPLY, cause, message, true, true, null);
    }

    static CallFailure status(Transport.Answer answer, String what) {
        return new CallFailure(
                FailureClass.HTTP_STATUS,
                "HTTP " + answer.status(),
                "the service answered HTTP " + answer.status() + advice(answer.status()) + " " + what,
                true,
                !leavesDoubt(answer.status()),
                null);
    }

    /**
     * Tells whether a status leaves open what became of the request: a gateway that had no answer (502, 504), a service
     * that broke down while it worked (500 and above), or one that waited too long for the request (408).
     */
    private static boolean leavesDoubt(int status) {
        return status >= 500 || status == 408;
    }

    private static String advice(int status) {
        return switch (status) {
            case 401 -> " (it wants a login, or does not accept this one: see the endpoint's authentication)";
            case 403 -> " (this login may not do that)";
            case 407 -> " (the proxy wants a login: see the endpoint's proxy)";
            default -> "";
        };
    }

    static String start(byte[] body) {
        String text = new String(body, 0, Math.min(body.length, 400), StandardCharsets.UTF_8)
                .replaceAll("<[^>]*>|\\p{Cntrl}", " ")
                .strip()
                .replaceAll("\\s+", " ");
        return text.length() > 120 ? text.substring(0, 120) + "…" : text;
    }
}
