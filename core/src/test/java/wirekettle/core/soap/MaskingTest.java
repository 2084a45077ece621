package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.assertTrue;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.security.Masking;

/** Secrets hidden in whatever form they stand in a text. */
public class MaskingTest {
    private static final String SECRET = "crate & \"lid\" <7>/ä";

    @DataProvider
    public Object[][] forms() {
        String base64 = Base64.getEncoder().encodeToString(SECRET.getBytes(StandardCharsets.UTF_8));
        return new Object[][] {
            {SECRET, SECRET},
            {"crate &amp; \"lid\" &lt;7&gt;/ä", "lid"},
            {"crate &amp; &quot;lid&quot; &lt;7&gt;/ä", "lid"},
            {"{\"p\":\"crate & \\\"lid\\\" <7>/ä\"}", "lid"},
            {URLEncoder.encode(SECRET, StandardCharsets.UTF_8), "lid"},
            {URLEncoder.encode(SECRET, StandardCharsets.UTF_8).replace("+", "%20"), "lid"},
            {base64, base64},
            {
                "Basic " + Base64.getEncoder().encodeToString(("ada:" + SECRET).getBytes(StandardCharsets.UTF_8)),
                "Y3JhdGUg"
            },
        };
    }

    @Test(dataProvider = "forms")
    public void aSecretIsHiddenInEveryForm(String text, String part) {
        Masking masking = new Masking(List.of(SECRET));
        String masked = masking.mask("<a>" + text + "</a>");
        assertTrue(masked.contains(Masking.MASK), masked);
        assertFalse(masked.contains(part), masked);
        assertTrue(masked.startsWith("<a>") && masked.endsWith("</a>"), "the rest stays: " + masked);
    }

    @DataProvider
    public Object[][] offsets() {
        return new Object[][] {{""}, {"x"}, {"xy"}, {"xyz"}, {"wxyz"}};
    }

    @Test(dataProvider = "offsets")
    public void base64IsFoundWhereverTheSecretStandsInIt(String before) {
        String plain = before + SECRET + "and more";
        String text = Base64.getEncoder().encodeToString(plain.getBytes(StandardCharsets.UTF_8));
        String masked = new Masking(List.of(SECRET)).mask(text);
        assertTrue(masked.contains(Masking.MASK), text);
        // what is left tells no more of it than a group at each end
        for (String left : masked.split(Masking.MASK)) {
            String readable = new String(Base64.getMimeDecoder().decode(left), StandardCharsets.ISO_8859_1);
            assertFalse(readable.contains("lid"), readable);
        }
    }

    @Test
    public void aPasswordElementIsHiddenWhoeverWroteIt() {
        String text = "<w:UsernameToken><w:Password Type='x'>typed by hand</w:Password></w:UsernameToken>";
        assertEquals(
                new Masking().mask(text),
                "<w:UsernameToken><w:Password Type='x'>" + Masking.MASK + "</w:Password></w:UsernameToken>");
    }

    @Test
    public void aLongerSecretIsHiddenBeforeAShorterOneWithinIt() {
        Masking masking = new Masking(List.of("crate", "crate-lid"));
        assertEquals(masking.mask("a crate-lid and a crate"), "a " + Masking.MASK + " and a " + Masking.MASK);
    }

    @Test
    public void whatHoldsNoSecretStaysTheSame() {
        Masking masking = new Masking(List.of(SECRET, "abc"));
        byte[] bytes = "nothing here, not even abc hidden".getBytes(StandardCharsets.UTF_8);
        assertSame(masking.mask(bytes), bytes);
        assertNull(masking.mask((String) null));
    }
}
