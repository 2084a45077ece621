package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Name;

/** Content beside the envelope, out and back, and what can be wrong with it. */
public class MultipartTest {
    private static final byte[] BINARY = new byte[3_000];

    static {
        new Random(3).nextBytes(BINARY);
    }

    @Test
    public void partsComeBackAsTheyWentOut() throws Exception {
        List<Part> parts = new ArrayList<>();
        for (byte[] content : List.of("<a/>".getBytes(), BINARY, new byte[0], "\r\n--\r\n".getBytes())) {
            parts.add(new Part("p" + parts.size() + "@x", "image/png", content));
        }
        Multipart.Written written = Multipart.write(parts, "; type=\"text/xml\"");
        List<Part> read = Multipart.read(written.contentType(), written.content());
        assertEquals(read.size(), parts.size());
        for (int i = 0; i < parts.size(); i++) {
            assertEquals(read.get(i).id(), parts.get(i).id());
            assertEquals(read.get(i).bytes(), parts.get(i).bytes());
        }
    }

    @Test
    public void partsOfOtherWritersAreRead() throws Exception {
        String text = "preamble\n--b\nContent-Type: text/xml;\n charset=utf-8\ncontent-id: <one>\n\n<a/>\n--b\n"
                + "Content-Transfer-Encoding: BASE64\nContent-ID: two\n\naGFs\nZXdpY2s=\n--b--\nafter";
        List<Part> read =
                Multipart.read("Multipart/Related; start=two; boundary=b", text.getBytes(StandardCharsets.UTF_8));
        assertEquals(new String(read.get(0).bytes()), "halewick", "the part the start parameter names comes first");
        assertEquals(read.get(1).type(), "text/xml; charset=utf-8");
        assertEquals(new String(read.get(1).bytes()), "<a/>");
    }

    @DataProvider
    public Object[][] broken() {
        return new Object[][] {
            {"multipart/related", "--b\r\n\r\n--b--", "no boundary"},
            {"multipart/related; boundary=c", "--b\r\n\r\n--b--", "does not occur"},
            {"multipart/related; boundary=b", "--b\r\nA: b\r\n\r\nhalf", "cut off in its part 1"},
            {"multipart/related; boundary=b", "--b--", "has no part"},
            {"multipart/related; boundary=b", "--b\r\nno end of headers--b--", "no end of its headers"},
            {"multipart/related; boundary=b; start=\"<x>\"", "--b\r\nA: b\r\n\r\nc\r\n--b--", "root part <x> is missing"
            },
            {"multipart/related; boundary=b", "--b\r\nContent-Transfer-Encoding: base64\r\n\r\n=a=\r\n--b--", "is not"},
        };
    }

    @Test(dataProvider = "broken")
    public void whatIsBrokenSaysWhere(String type, String content, String said) {
        Multipart.Broken e = expectThrows(
                Multipart.Broken.class, () -> Multipart.read(type, content.getBytes(StandardCharsets.UTF_8)));
        assertTrue(e.getMessage().contains(said), e.getMessage());
    }

    @Test
    public void onlyLongBase64OfBinaryElementsTravelsBeside() throws Exception {
        String long64 = java.util.Base64.getEncoder().encodeToString(BINARY);
        String envelope = "<e><p:photo xmlns:p='urn:p' contentType='image/jpeg'>" + long64
                + "</p:photo><photo>QUJD</photo>" + "<text>" + long64 + "</text></e>";
        Xop.Packed packed = Xop.pack(envelope, Set.of(new Name("urn:p", "photo")));
        assertEquals(packed.parts().size(), 1);
        assertEquals(packed.parts().get(0).bytes(), BINARY);
        assertEquals(packed.parts().get(0).type(), "image/jpeg");
        assertTrue(packed.envelope().contains("<text>" + long64), "a text that looks like base64 stays");
        assertEquals(Xop.unpack(packed.envelope(), packed.parts()), envelope);
    }
}
