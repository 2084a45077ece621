package wirekettle.core.contract;

/** The versions of SOAP a port can speak. */
public enum SoapVersion {
    /** SOAP 1.1. */
    SOAP_11("1.1", "http://schemas.xmlsoap.org/soap/envelope/", "http://schemas.xmlsoap.org/wsdl/soap/"),
    /** SOAP 1.2. */
    SOAP_12("1.2", "http://www.w3.org/2003/05/soap-envelope", "http://schemas.xmlsoap.org/wsdl/soap12/");

    private final String label;
    private final String envelope;
    private final String binding;

    SoapVersion(String label, String envelope, String binding) {
        this.label = label;
        this.envelope = envelope;
        this.binding = binding;
    }

    /** Returns "1.1" or "1.2". */
    public String label() {
        return label;
    }

    /** Returns the namespace of the envelope. */
    public String envelope() {
        return envelope;
    }

    /** Returns the namespace of the WSDL binding extension. */
    public String binding() {
        return binding;
    }
}
