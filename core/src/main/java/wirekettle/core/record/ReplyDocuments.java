package wirekettle.core.record;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.fill.MappingProblem;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlProblem;

/**
 * Opens the documents that stand as text inside fields of a reply, so that their fields are in reach like any others.
 */
public final class ReplyDocuments {
    private static final int SHOWN = 60;

    private record Place(EmbeddedDocument document, List<SheetPath.Step> steps, Name root) {}

    private final List<Place> places = new ArrayList<>();

    /** Prepares the documents of replies among those given. */
    public ReplyDocuments(List<EmbeddedDocument> documents) {
        for (EmbeddedDocument document : documents) {
            if ("reply".equals(document.message())) {
                places.add(new Place(
                        document,
                        SheetPath.parse(document.path()).steps(),
                        Name.parse(String.valueOf(document.root()))));
            }
        }
    }

    /** Tells whether there is nothing to open. */
    public boolean none() {
        return places.isEmpty();
    }

    /**
     * Returns the reply's body with every document opened below its field; what cannot be read is added as a problem.
     */
    public Node opened(Node body, List<MappingProblem> problems) {
        Node opened = body;
        for (Place place : places) {
            opened = opened(opened, place, 0, problems);
        }
        return opened;
    }

    private static Node opened(Node node, Place place, int at, List<MappingProblem> problems) {
        if (!node.name().equals(place.steps().get(at).name())) {
            return node;
        }
        if (at == place.steps().size() - 1) {
            return read(node, place, problems);
        }
        List<Node> children = new ArrayList<>();
        boolean changed = false;
        for (Node child : node.children()) {
            Node other = opened(child, place, at + 1, problems);
            changed |= other != child;
            children.add(other);
        }
        return changed ? node.with(children) : node;
    }

    private static Node read(Node field, Place place, List<MappingProblem> problems) {
        if (field.text().isBlank() || !field.children().isEmpty()) {
            return field;
        }
        EmbeddedDocument document = place.document();
        try {
            Node root = EmbeddedDocument.read(field.text(), document.form(), document.wraps(), place.root());
            if (!root.name().equals(place.root())) {
                problem(
                        field,
                        place,
                        problems,
                        "it begins with " + root.name().local() + ", not "
                                + place.root().local());
                return field;
            }
            return field.with(List.of(root));
        } catch (XmlProblem e) {
            String where = e.line() > 0 ? " (line " + e.line() + ", column " + e.column() + ")" : "";
            problem(field, place, problems, e.getMessage() + where);
            return field;
        }
    }

    private static void problem(Node field, Place place, List<MappingProblem> problems, String why) {
        String text = field.text().strip();
        String shown = text.length() > SHOWN ? text.substring(0, SHOWN) + "…" : text;
        String form = "json".equals(place.document().form()) ? "JSON" : "XML";
        problems.add(new MappingProblem(
                place.document().path(),
                shown,
                null,
                "document",
                "is not the " + form + " it was learned to be: " + why));
    }
}
