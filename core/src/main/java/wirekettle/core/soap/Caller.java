package wirekettle.core.soap;

import java.util.List;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Operation;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/** Calls one operation at one address. Implementations are safe for several threads. */
public interface Caller {
    /**
     * One exchange and what became of it. What was sent and received is as it may be shown and kept: in UTF-8, secrets
     * masked; so is the failure.
     *
     * @param sent what went out, null when nothing could be made
     * @param received what came back, null when nothing did
     * @param attachments what came beside the envelope
     * @param answer the answer as it was on the wire, null when there was none
     * @param reply the reply, null when the call failed
     * @param failure why it failed, or null
     * @param note what is odd about the answer, or null
     */
    record Result(
            byte[] sent,
            byte[] received,
            List<Part> attachments,
            Transport.Answer answer,
            Reply reply,
            CallFailure failure,
            String note) {}

    /** Sends a message as it was written for the operation; failures are part of the result. */
    default Result call(byte[] message) {
        return call(message, CallRoom.NONE);
    }

    /** Sends a message; the answer goes where {@code room} says. */
    Result call(byte[] message, CallRoom room);

    /** Returns how many bytes a message has as it is sent, with all that is added to it. */
    default long bytes(byte[] message) {
        return message.length;
    }

    /** Reads what an operation answered once more, from the text that was kept of it. */
    static Reply reread(Operation operation, byte[] content) throws XmlProblem {
        return operation.http() != null
                ? HttpCaller.read(operation, content)
                : ReplyReader.read(WireText.withoutDeclaration(content)).resolvedWithoutParts();
    }

    /** Returns a message as it is shown before it is sent: the envelope, or the HTTP request it becomes. */
    static byte[] shown(Contract contract, Offered offered, byte[] message) {
        return offered.operation().http() == null
                ? message
                : HttpCaller.shown(offered.port().address(), contract, offered, message);
    }

    /** Returns a tree as JSON, the way its sheet says. */
    static byte[] json(Node tree, SheetField field) {
        return JsonWriter.write(tree, field, false);
    }

    /** Returns the caller an operation needs: over SOAP, or by plain HTTP where its port speaks that. */
    static Caller of(
            Transport transport,
            EndpointReach reach,
            Contract contract,
            Offered offered,
            Transport.Limits usualLimits) {
        Transport.Limits limits = reach.settings().limits(usualLimits);
        Caller caller = offered.operation().http() != null
                ? new HttpCaller(transport, reach, contract, offered, limits)
                : new SoapCaller(transport, reach, contract, offered, limits);
        return reach.session() == null ? caller : new SessionCaller(caller, reach.session(), transport, reach, limits);
    }
}
