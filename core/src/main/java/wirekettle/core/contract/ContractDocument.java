package wirekettle.core.contract;

import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import wirekettle.core.xml.LenientXml;

/**
 * One document of a contract, kept as it was fetched.
 *
 * @param name its address, or its path within the files given
 * @param bytes its content
 */
public record ContractDocument(String name, byte[] bytes) {
    /** Returns the SHA-256 of the content in lower-case hexadecimal. */
    public String hash() {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** Returns the content as text, in the encoding it is really in. */
    public String text() {
        return LenientXml.text(bytes);
    }
}
