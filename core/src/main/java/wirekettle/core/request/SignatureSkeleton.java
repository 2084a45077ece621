package wirekettle.core.request;

import java.util.function.Consumer;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.FilledBy;
import wirekettle.core.schema.SheetField;
import wirekettle.core.soap.security.SignatureMark;
import wirekettle.core.value.Name;

/**
 * Makes the fills of an XML signature whose values come when the message is sent (XML Signature Syntax and Processing,
 * 4): the element is whole and valid, and its id is the mark.
 */
final class SignatureSkeleton {
    private static final String DSIG = SignatureMark.DSIG;
    private static final String EXCLUSIVE = "http://www.w3.org/2001/10/xml-exc-c14n#";
    private static final String INCLUSIVE = "http://www.w3.org/TR/2001/REC-xml-c14n-20010315";
    private static final String SHA256 = "http://www.w3.org/2001/04/xmlenc#sha256";
    private static final String RSA = "http://www.w3.org/2001/04/xmldsig-more#rsa-sha256";

    private final Consumer<Fill> into;
    private final String id;

    SignatureSkeleton(Consumer<Fill> into, String id) {
        this.into = into;
        this.id = id;
    }

    /** Tells whether a field is an element Signature of XML Signature. */
    static boolean fits(SheetField field) {
        return new Name(DSIG, "Signature").equals(field.name());
    }

    /** Makes the fills below a field. */
    void of(FilledBy.Signature signature, String path) {
        boolean inclusive = Boolean.TRUE.equals(signature.inclusive());
        String canonical = inclusive ? INCLUSIVE : EXCLUSIVE;
        String key = signature.key() == null ? "" : signature.key();
        text(path + "/@Id", new SignatureMark(signature.over(), key, inclusive).id());
        String info = path + in("SignedInfo");
        text(info + in("CanonicalizationMethod") + "/@Algorithm", canonical);
        text(info + in("SignatureMethod") + "/@Algorithm", RSA);
        String reference = info + in("Reference");
        text(reference + "/@URI", "");
        text(reference + in("DigestMethod") + "/@Algorithm", SHA256);
        text(reference + in("DigestValue"), "");
        text(path + in("SignatureValue"), "");
    }

    private static String in(String name) {
        return "/{" + DSIG + "}" + name;
    }

    private void text(String target, String text) {
        Fill fill = Fill.constant(id, target, text);
        into.accept(text.isEmpty() ? fill.with(new Fill.WhenEmpty(Fill.WhenEmpty.Use.SEND, null)) : fill);
    }
}
