package wirekettle.core.simulate;

import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.schema.SoapEncoding;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.value.NodeWriter;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** Rewrites an encoded reply as old services send it: the items of arrays stand beside it and are referred to. */
final class MultiReferenceText {
    private final List<Node> beside = new ArrayList<>();

    private MultiReferenceText() {}

    static byte[] of(byte[] envelope) throws XmlProblem {
        Node whole = NodeReader.read(new ByteArrayInputStream(envelope), "reply", XmlLimits.MESSAGES);
        MultiReferenceText text = new MultiReferenceText();
        List<Node> parts = new ArrayList<>();
        for (Node part : whole.children()) {
            if (part.name().local().equals("Body")) {
                List<Node> body = new ArrayList<>();
                part.children().forEach(child -> body.add(text.referring(child)));
                body.addAll(text.beside);
                parts.add(part.with(body));
            } else {
                parts.add(part);
            }
        }
        return NodeWriter.write(whole.with(parts), false).getBytes(StandardCharsets.UTF_8);
    }

    private Node referring(Node node) {
        boolean array = node.attribute("arrayType") != null;
        List<Node> children = new ArrayList<>();
        for (Node child : node.children()) {
            Node inner = referring(child);
            if (array) {
                String id = "id" + beside.size();
                Node.Builder value =
                        Node.build(Name.of("multiRef")).type(inner.type()).text(inner.text());
                value.attribute(Name.of("id"), id);
                value.attribute(new Name(SoapEncoding.NAMESPACE, "root"), "0");
                inner.children().forEach(value::add);
                beside.add(value.done());
                inner = Node.build(child.name())
                        .attribute(Name.of("href"), "#" + id)
                        .done();
            }
            children.add(inner);
        }
        return node.with(children);
    }
}
