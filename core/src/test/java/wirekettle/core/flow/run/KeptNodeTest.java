package wirekettle.core.flow.run;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.io.ByteArrayInputStream;
import java.io.InputStream;
import org.testng.annotations.Test;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;

public class KeptNodeTest {
    private record Typed(byte[] bytes, String type) implements Content {
        @Override
        public long length() {
            return bytes.length;
        }

        @Override
        public InputStream open() {
            return new ByteArrayInputStream(bytes);
        }
    }

    private static Node paper(String name, int bytes) {
        return Node.leaf(Name.of(name), "").holding(new Typed(new byte[bytes], "application/pdf"));
    }

    private static Node papers(Node... papers) {
        Node.Builder all =
                Node.build(new Name("urn:halewick:papers:1", "papers")).add("loan", "L-1 & L-2");
        for (Node paper : papers) {
            all.add(Node.build(Name.of("paper"))
                    .attribute(Name.of("no"), "1")
                    .add(paper)
                    .done());
        }
        return all.done();
    }

    @Test
    public void aTreeWithoutAttachmentsIsKeptAsItIs() throws Exception {
        Node tree = papers();
        assertEquals(NodeWriter.write(KeptNode.read(KeptNode.write(tree)), false), NodeWriter.write(tree, false));
    }

    @Test
    public void bytesAndTheirTypeComeBack() throws Exception {
        Node back = KeptNode.read(KeptNode.write(papers(paper("a", 3), paper("b", 0))));
        Content a = back.children().get(1).child("a").content();
        assertEquals(a.bytes(), new byte[3]);
        assertEquals(a.type(), "application/pdf");
        assertEquals(back.children().get(2).child("b").content().length(), 0);
        assertEquals(back.children().get(1).child("a").attributes().size(), 0);
        assertEquals(back.textOf("loan"), "L-1 & L-2");
        assertEquals(KeptNode.gone(back), 0);
    }

    @Test
    public void whatIsTooLargeTogetherIsSaidToBeGone() throws Exception {
        int half = Content.MOST_TEXT / 2;
        Node back = KeptNode.read(KeptNode.write(papers(paper("a", half), paper("b", half + 1), paper("c", half))));
        assertEquals(back.children().get(1).child("a").content().length(), half);
        assertEquals(KeptNode.gone(back), half + 1);
        assertEquals(back.children().get(3).child("c").content().bytes().length, half);
        assertNull(back.children().get(2).content());
    }
}
