package wirekettle.core.request;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.Fill;
import wirekettle.core.request.FillPlan.Writing;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.soap.JsonWriter;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** The plan of a document inside a field: written on its own, then packed into the field's text. */
final class PlanDocument {
    private static final byte[] CDATA = "<![CDATA[".getBytes(StandardCharsets.US_ASCII);
    private static final byte[] CDATA_END = "]]>".getBytes(StandardCharsets.US_ASCII);

    private final EmbeddedShape shape;
    private final PlanElement root;

    PlanDocument(EmbeddedShape shape, PlanElement root) {
        this.shape = shape;
        this.root = root;
    }

    /** Adds the fills in it. */
    void collect(List<Fill> into) {
        root.collect(into);
    }

    /** Tells whether anything in it comes from the record. */
    boolean varies() {
        return root.varies();
    }

    /** Writes the end of the start tag, the packed document and the end tag; nothing when it has no content. */
    boolean text(Writing writing, boolean must, byte[] endOfTag, byte[] close) {
        ByteOut message = writing.out;
        ByteOut own = new ByteOut();
        int problems = writing.problems.size();
        writing.out = own;
        boolean written = root.write(writing, must);
        writing.out = message;
        if (!written) {
            return false;
        }
        byte[] content = own.bytes();
        if (shape.form() == DocumentForm.JSON && writing.problems.size() == problems) {
            content = json(content);
        }
        String text = EmbeddedDocument.packed(content, shape.wraps());
        message.raw(endOfTag);
        if (shape.wraps().contains("cdata") && !shape.wraps().contains("base64")) {
            message.raw(CDATA);
            message.raw(text.replace("]]>", "]]]]><![CDATA[>").getBytes(StandardCharsets.UTF_8));
            message.raw(CDATA_END);
        } else {
            message.text(text, false);
        }
        message.raw(close);
        return true;
    }

    private byte[] json(byte[] xml) {
        try {
            Node tree = NodeReader.read(new ByteArrayInputStream(xml), "document", XmlLimits.MESSAGES);
            return JsonWriter.write(tree, shape.sheet(), false);
        } catch (XmlProblem e) {
            throw new IllegalStateException("what a plan writes without problems is XML", e);
        }
    }
}
