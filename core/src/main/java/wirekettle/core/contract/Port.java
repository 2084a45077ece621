package wirekettle.core.contract;

import java.util.List;

/**
 * One port of a service.
 *
 * @param name its name
 * @param binding the local name of its binding
 * @param soapVersion the SOAP version, null for a port that does not speak SOAP
 * @param address where the WSDL says it is, empty when it does not
 * @param operations its operations in the order of the binding
 * @param documentation its documentation
 * @param httpVerb GET or POST for a port spoken to by plain HTTP, empty where each operation has its own, else null
 * @param advice what it wants of its callers beyond the messages
 */
public record Port(
        String name,
        String binding,
        SoapVersion soapVersion,
        String address,
        List<Operation> operations,
        String documentation,
        String httpVerb,
        List<Advice> advice) {
    /** Returns how it is spoken to: SOAP 1.1, SOAP 1.2, HTTP GET, HTTP POST; empty when that is not known. */
    public String protocol() {
        return soapVersion != null
                ? "SOAP " + soapVersion.label()
                : httpVerb != null ? ("HTTP " + httpVerb).strip() : "";
    }

    /** Tells whether its operations can be called. */
    public boolean callable() {
        return soapVersion != null || httpVerb != null;
    }
}
