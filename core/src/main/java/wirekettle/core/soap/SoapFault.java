package wirekettle.core.soap;

import java.util.List;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.Node;

/**
 * A fault as it was received (SOAP 1.1, 4.4; SOAP 1.2 part 1, 5.4).
 *
 * @param code the local part of the fault code, subcodes after a slash
 * @param reason the text meant for people
 * @param detail the elements inside the detail
 * @param headers the header elements beside it, where a fault about a header tells its detail (WSDL 1.1, 3.7)
 */
public record SoapFault(String code, String reason, List<Node> detail, List<Node> headers) {
    private static final int MOST = 4_000;

    /** Shortens a long reason; the whole text is in the kept exchange. */
    public SoapFault {
        reason = reason != null && reason.length() > MOST ? reason.substring(0, MOST) + "…" : reason;
    }

    /** Returns the fault in which no value tells a secret. */
    SoapFault masked(Masking masking) {
        return masking.inData()
                ? new SoapFault(
                        code, masking.mask(reason), Reply.masked(detail, masking), Reply.masked(headers, masking))
                : this;
    }

    /**
     * Returns the local name of the first detail element, or the code when there is none: what faults are counted by.
     */
    public String label() {
        return detail.isEmpty() ? code : detail.get(0).name().local();
    }

    /** Returns the fault as a tree so that expressions can reach it: {@code code}, {@code reason}, {@code detail}. */
    public Node node() {
        return Node.build(wirekettle.core.value.Name.of("fault"))
                .add("code", code)
                .add("reason", reason)
                .add(Node.branch(wirekettle.core.value.Name.of("detail"), detail))
                .done();
    }
}
