package wirekettle.core.mapping;

import java.util.Iterator;
import java.util.Map;
import javax.xml.stream.XMLStreamException;
import net.sf.saxon.om.TreeModel;
import net.sf.saxon.s9api.Axis;
import net.sf.saxon.s9api.BuildingStreamWriter;
import net.sf.saxon.s9api.DocumentBuilder;
import net.sf.saxon.s9api.Processor;
import net.sf.saxon.s9api.SaxonApiException;
import net.sf.saxon.s9api.XdmItem;
import net.sf.saxon.s9api.XdmNode;
import net.sf.saxon.s9api.XdmNodeKind;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

/** Turns value trees into the expression engine's, remembering which node became which so that parents stay in reach. */
final class XdmTrees {
    private final Processor processor;

    XdmTrees(Processor processor) {
        this.processor = processor;
    }

    XdmNode build(Node root, Map<Node, XdmNode> known) throws SaxonApiException {
        DocumentBuilder builder = processor.newDocumentBuilder();
        // the default model sets aside room for thousands of nodes; records are small
        builder.setTreeModel(TreeModel.LINKED_TREE);
        BuildingStreamWriter writer = builder.newBuildingStreamWriter();
        try {
            writer.writeStartDocument();
            write(root, writer);
            writer.writeEndDocument();
        } catch (XMLStreamException e) {
            throw new SaxonApiException(e);
        }
        XdmNode top = null;
        for (XdmItem child : writer.getDocumentNode().children()) {
            top = (XdmNode) child;
        }
        pair(root, top, known);
        return top;
    }

    private static void write(Node node, BuildingStreamWriter writer) throws XMLStreamException {
        Name name = node.name();
        if (name.namespace().isEmpty()) {
            writer.writeStartElement("", name.local(), "");
        } else {
            writer.writeStartElement("n", name.local(), name.namespace());
            writer.writeNamespace("n", name.namespace());
        }
        for (Node attribute : node.attributes()) {
            writer.writeAttribute(attribute.name().local(), attribute.text());
        }
        if (!node.text().isEmpty()) {
            writer.writeCharacters(node.text());
        }
        for (Node child : node.children()) {
            write(child, writer);
        }
        writer.writeEndElement();
    }

    private static void pair(Node node, XdmNode built, Map<Node, XdmNode> known) {
        known.put(node, built);
        Iterator<XdmNode> elements = built.axisIterator(Axis.CHILD);
        for (Node child : node.children()) {
            XdmNode next = elements.next();
            while (next.getNodeKind() != XdmNodeKind.ELEMENT) {
                next = elements.next();
            }
            pair(child, next, known);
        }
    }
}
