package wirekettle.core.soap;

import wirekettle.core.contract.SoapVersion;

/** Who is to blame for a fault, or what of SOAP itself went wrong (SOAP 1.1, 4.4.1; SOAP 1.2 part 1, 5.4.6). */
public enum FaultCode {
    /** What was sent is wrong. */
    SENDER("Client", "Sender"),
    /** It could not be done. */
    RECEIVER("Server", "Receiver"),
    /** A header must be understood and is not. */
    MUST_UNDERSTAND("MustUnderstand", "MustUnderstand"),
    /** The envelope is of another version. */
    VERSION_MISMATCH("VersionMismatch", "VersionMismatch");

    private final String first;
    private final String second;

    FaultCode(String first, String second) {
        this.first = first;
        this.second = second;
    }

    /** Returns its local name in a version of SOAP. */
    public String name(SoapVersion version) {
        return version == SoapVersion.SOAP_11 ? first : second;
    }
}
