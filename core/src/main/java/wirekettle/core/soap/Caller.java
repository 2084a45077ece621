package wirekettle.core.soap;

import wirekettle.core.contract.Contract.Offered;
import wirekettle.core.contract.Operation;
import wirekettle.core.xml.XmlProblem;

/** Calls one operation at one address. Implementations are safe for several threads. */
public interface Caller {
    /**
     * One exchange and what became of it.
     *
     * @param answer what came back, null when nothing did
     * @param reply the reply, null when the call failed
     * @param failure why it failed, or null
     */
    record Result(Transport.Answer answer, Reply reply, CallFailure failure) {}

    /** Sends a message as it was written for the operation; failures are part of the result. */
    Result call(byte[] message);

    /** Returns what is really sent for a message, as it is shown and kept: the envelope, or the HTTP request. */
    default byte[] shown(byte[] message) {
        return message;
    }

    /** Reads what an operation answered once more, from the text that was kept of it. */
    static Reply reread(Operation operation, byte[] content) throws XmlProblem {
        return operation.http() != null ? HttpCaller.read(operation, content) : ReplyReader.read(content);
    }

    /** Returns the caller an operation needs: over SOAP, or by plain HTTP where its port speaks that. */
    static Caller of(Transport transport, String address, Offered offered, Transport.Limits limits) {
        return offered.operation().http() != null
                ? new HttpCaller(transport, address, offered.operation(), limits)
                : new SoapCaller(transport, address, offered.port().soapVersion(), offered.operation(), limits);
    }
}
