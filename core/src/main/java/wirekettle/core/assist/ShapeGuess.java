package wirekettle.core.assist;

import java.nio.charset.StandardCharsets;
import java.util.List;
import wirekettle.core.fill.EmbeddedDocument;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.schema.LearnedShape;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.xml.XmlElement;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/** Finds out what the texts of a field are, and learns the shape of the documents they hold. */
public final class ShapeGuess {
    private static final String XSD = "http://www.w3.org/2001/XMLSchema";
    private static final List<List<String>> WRAPS = List.of(List.of(), List.of("base64"), List.of("gzip", "base64"));

    /**
     * What was learned.
     *
     * @param document the document with its shape
     * @param news what is new to what was known before
     */
    public record Learned(EmbeddedDocument document, List<String> news) {}

    private ShapeGuess() {}

    /**
     * Learns from texts; a text that is an XML Schema is taken as the shape itself.
     *
     * @param before what was known of the field, or null
     * @throws IllegalArgumentException when the texts are no documents, or of another kind than before
     */
    public static Learned learn(List<String> texts, String message, String path, EmbeddedDocument before) {
        String first = texts.get(0);
        if (texts.size() == 1 && schema(first) != null) {
            String root = schema(first);
            EmbeddedDocument given =
                    new EmbeddedDocument(message, path, DocumentForm.XML, List.of(), List.of(first), root, false);
            given.shape();
            return new Learned(given, List.of());
        }
        if (before != null) {
            return widened(texts, before);
        }
        String last = path.substring(Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')) + 1);
        Name json = Name.of(last.replaceAll("[#~].*", ""));
        for (List<String> wraps : WRAPS) {
            for (DocumentForm form : List.of(DocumentForm.XML, DocumentForm.JSON)) {
                if (form == DocumentForm.JSON
                        && wraps.isEmpty()
                        && !first.strip().matches("(?s)[\\[{].*")) {
                    continue; // a bare text or number is JSON too, but no document
                }
                EmbeddedDocument tried =
                        new EmbeddedDocument(message, path, form, wraps, List.of(), json.toString(), true);
                try {
                    EmbeddedDocument.read(first, form, wraps, json);
                } catch (XmlProblem e) {
                    continue;
                }
                return learned(texts, tried, new LearnedShape());
            }
        }
        throw new IllegalArgumentException(
                "The text in this field is neither XML nor JSON, nor either of them in base64: “"
                        + (first.length() > 60 ? first.substring(0, 60) + "…" : first) + "”.");
    }

    private static Learned widened(List<String> texts, EmbeddedDocument before) {
        EmbeddedShape known = before.shape();
        return learned(texts, before, new LearnedShape(known.sheet()));
    }

    private static Learned learned(List<String> texts, EmbeddedDocument as, LearnedShape shape) {
        int read = 0;
        String problem = "";
        for (String text : texts) {
            try {
                Node document = EmbeddedDocument.read(text, as.form(), as.wraps(), Name.parse(as.root()));
                shape.learn(document);
                read++;
            } catch (XmlProblem e) {
                problem = e.sentence();
            } catch (IllegalArgumentException e) {
                problem = e.getMessage();
            }
        }
        if (read == 0) {
            throw new IllegalArgumentException("No text of this field could be read: " + problem + ".");
        }
        EmbeddedDocument made = new EmbeddedDocument(
                as.message(), as.path(), as.form(), as.wraps(), shape.schemas(), shape.root(), true);
        return new Learned(made, shape.news());
    }

    /** Returns the name of the first element an XML Schema declares, null when the text is none. */
    private static String schema(String text) {
        try {
            XmlElement root = XmlTree.read(text.getBytes(StandardCharsets.UTF_8), "schema", XmlLimits.DOCUMENTS);
            if (!root.name().equals(new Name(XSD, "schema"))) {
                return null;
            }
            List<XmlElement> elements = root.children(XSD, "element");
            if (elements.isEmpty()) {
                throw new IllegalArgumentException("The schema declares no element a document could begin with.");
            }
            String target = root.attribute("targetNamespace");
            return new Name(target == null ? "" : target, elements.get(0).attribute("name")).toString();
        } catch (XmlProblem e) {
            return null;
        }
    }
}
