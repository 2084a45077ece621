package wirekettle.core.soap;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.attachments.Attachments;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.soap.attachments.Multipart;
import wirekettle.core.soap.attachments.Part;
import wirekettle.core.soap.attachments.Xop;
import wirekettle.core.value.Content;
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
        List<Part> read =
                Multipart.read(written.contentType(), written.content().bytes());
        assertEquals(read.size(), parts.size());
        for (int i = 0; i < parts.size(); i++) {
            assertEquals(read.get(i).id(), parts.get(i).id());
            assertEquals(read.get(i).bytes(), parts.get(i).bytes());
        }
    }

    /** Gives a few bytes at a time, as a network does. */
    private static InputStream trickling(Content content) throws Exception {
        Random random = new Random(5);
        return new FilterInputStream(content.open()) {
            @Override
            public int read(byte[] into, int at, int most) throws IOException {
                return super.read(into, at, 1 + random.nextInt(Math.min(most, 900)));
            }
        };
    }

    @Test
    public void partsAreTakenApartAsTheyComeAndLongOnesGoToFiles() throws Exception {
        Random random = new Random(11);
        List<Part> parts = new ArrayList<>();
        for (int length : List.of(10, 65_535, 65_536, 65_537, 200_003, 0, 1)) {
            byte[] content = new byte[length];
            random.nextBytes(content);
            // what looks like the start of a boundary, at the end and within
            for (int i = 0; i + 8 < length; i += 997) {
                System.arraycopy("\r\n--part".getBytes(), 0, content, i, 8);
            }
            parts.add(new Part("p" + parts.size() + "@x", "image/png", content));
        }
        Multipart.Written written = Multipart.write(parts, "");
        Content files;
        try (Attachments attachments = new Attachments();
                InputStream in = trickling(written.content())) {
            List<Part> read = Multipart.read(written.contentType(), in, attachments, 1_000);
            assertEquals(read.size(), parts.size());
            for (int i = 0; i < parts.size(); i++) {
                assertEquals(read.get(i).length(), parts.get(i).length());
                assertTrue(Content.same(read.get(i), parts.get(i)), "part " + i);
                assertEquals(read.get(i).inMemory(), parts.get(i).length() <= 65_536, "part " + i);
            }
            files = read.get(4);
        }
        expectThrows(java.nio.file.NoSuchFileException.class, files::open);
    }

    @Test
    public void aRootAboveItsLimitIsRefusedAndOthersAreNot() throws Exception {
        List<Part> parts = List.of(new Part("a", "text/xml", BINARY), new Part("b", "image/png", new byte[9_000]));
        Multipart.Written written = Multipart.write(parts, "");
        try (Attachments attachments = new Attachments();
                InputStream in = written.content().open()) {
            expectThrows(
                    Multipart.RootTooLarge.class,
                    () -> Multipart.read(written.contentType(), in, attachments, BINARY.length - 1));
        }
        try (Attachments attachments = new Attachments();
                InputStream in = written.content().open()) {
            assertEquals(
                    Multipart.read(written.contentType(), in, attachments, BINARY.length)
                            .size(),
                    2);
        }
    }

    @Test
    public void contentIsBase64AsItIsRead() throws Exception {
        for (int length : List.of(0, 1, 2, 3, 24_575, 24_576, 24_577, 100_000)) {
            byte[] plain = new byte[length];
            new Random(length).nextBytes(plain);
            Content encoded = Content.inBase64(Content.of(plain));
            byte[] expected = java.util.Base64.getEncoder().encode(plain);
            assertEquals(encoded.length(), expected.length);
            assertEquals(encoded.bytes(), expected);
        }
    }

    @Test
    public void aMarkIsOneOnlyWhereItIsMarkup() {
        FileMark mark = new FileMark("crate photos", "a \"b\" & <c> ü.png", 12);
        String text = new String(mark.text(), StandardCharsets.UTF_8);
        String message = "<m><!-- " + text + " --><a><![CDATA[" + text + "]]></a><b>" + text
                + "</b><c>&lt;?file-content " + "folder=\"x\"</c></m>";
        List<FileMark.Piece> pieces = FileMark.pieces(message);
        assertEquals(pieces.size(), 2);
        assertEquals(pieces.get(0).mark(), mark);
        assertEquals(pieces.get(0).text() + text + pieces.get(1).text(), message);
        assertTrue(FileMark.in(message.getBytes(StandardCharsets.UTF_8)));
        assertEquals(
                new String(FileMark.standIns(("<b>" + text + "</b>").getBytes(StandardCharsets.UTF_8))),
                "<b>AAAAAAAAAAAAAAAA</b>");
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
