package wirekettle.core.schema;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.Name;
import wirekettle.core.xml.Finding;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;
import wirekettle.core.xml.XmlTree;

/**
 * What a document inside a field looks like. Read-only once built.
 *
 * @param form how it is written
 * @param wraps how it is packed, from the inside out: {@code cdata}, {@code gzip}, {@code base64}
 * @param documents the schemas it was read from
 * @param schemas their components
 * @param root its root element
 */
public record EmbeddedShape(
        DocumentForm form, List<String> wraps, List<SchemaDocument> documents, SchemaSet schemas, ElementDecl root) {
    private static final List<String> WRAPS = List.of("cdata", "gzip", "base64");

    /**
     * Reads a shape.
     *
     * @param form how it is written, null for XML
     * @param texts XML Schema documents
     * @param root the expanded name of the root element
     * @throws IllegalArgumentException saying what cannot be used
     */
    public static EmbeddedShape read(DocumentForm form, List<String> wraps, List<String> texts, String root) {
        List<String> packed = wraps == null ? List.of() : List.copyOf(wraps);
        for (String wrap : packed) {
            if (!WRAPS.contains(wrap)) {
                throw new IllegalArgumentException(
                        "“" + wrap + "” is no way to pack a document: use cdata, gzip, base64");
            }
        }
        if (packed.contains("gzip") && !packed.contains("base64")) {
            throw new IllegalArgumentException("what is packed by gzip has to be base64 to stand in a message");
        }
        List<SchemaDocument> documents = new ArrayList<>();
        List<Finding> findings = new ArrayList<>();
        for (int i = 0; i < texts.size(); i++) {
            try {
                var xml = XmlTree.read(
                        texts.get(i).getBytes(StandardCharsets.UTF_8), "schema " + (i + 1), XmlLimits.DOCUMENTS);
                String target = xml.attribute("targetNamespace");
                documents.add(new SchemaDocument(xml, "schema-" + i + ".xsd", target == null ? "" : target));
            } catch (XmlProblem e) {
                throw new IllegalArgumentException("the schema of the document cannot be read: " + e.sentence(), e);
            }
        }
        SchemaSet set = SchemaReader.read(documents, findings);
        ElementDecl element = set.element(Name.parse(String.valueOf(root)));
        if (element == null) {
            throw new IllegalArgumentException("the schema of the document has no element " + root);
        }
        return new EmbeddedShape(form == null ? DocumentForm.XML : form, packed, documents, set, element);
    }

    /** Returns the sheet of the document alone. */
    public SheetField sheet() {
        return SheetField.of(root, schemas);
    }

    /** Returns the JDK's validator over the document's schemas. */
    public SchemaCheck check() {
        return SchemaCheck.of(documents, List.of(), schemas);
    }
}
