package wirekettle.core.fill;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import java.util.zip.GZIPInputStream;
import java.util.zip.GZIPOutputStream;
import wirekettle.core.schema.EmbeddedShape;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.JsonReader;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/**
 * A document that stands as text inside a field of a message: its fields appear below it like any others.
 *
 * @param message request or reply
 * @param path the path of the field that holds it
 * @param form how it is written
 * @param wraps how it is packed, from the inside out: cdata, gzip, base64; null for plain text
 * @param schemas its XML Schema documents, given or learned
 * @param root the expanded name of its root element; for JSON the name the top value has in the flow
 * @param learned whether its shape was learned from replies
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record EmbeddedDocument(
        String message,
        String path,
        DocumentForm form,
        List<String> wraps,
        List<String> schemas,
        String root,
        Boolean learned) {
    private static final int MOST_BYTES = 16 << 20;
    private static final Pattern DECLARATION = Pattern.compile("^\\s*(<\\?xml[^>]*\\?>)?\\s*");

    /** Keeps its own copies. */
    public EmbeddedDocument {
        wraps = wraps == null ? List.of() : List.copyOf(wraps);
        schemas = schemas == null ? List.of() : List.copyOf(schemas);
    }

    /** Returns its shape; an {@link IllegalArgumentException} says what is wrong with it. */
    public EmbeddedShape shape() {
        return EmbeddedShape.read(form, wraps, schemas, root);
    }

    /** Returns the shapes of documents by the paths of their fields; those that cannot be used are left out. */
    public static Map<String, EmbeddedShape> shapes(List<EmbeddedDocument> documents, String message) {
        Map<String, EmbeddedShape> shapes = new LinkedHashMap<>();
        for (EmbeddedDocument document : documents) {
            if (message.equals(document.message())) {
                try {
                    shapes.put(document.path(), document.shape());
                } catch (IllegalArgumentException e) {
                    continue; // said where the flow is checked
                }
            }
        }
        return shapes;
    }

    /** Returns the text that goes into the field. */
    public static String packed(byte[] content, List<String> wraps) {
        byte[] bytes = content;
        for (String wrap : wraps) {
            if (wrap.equals("gzip")) {
                ByteArrayOutputStream out = new ByteArrayOutputStream();
                try (GZIPOutputStream zip = new GZIPOutputStream(out)) {
                    zip.write(bytes);
                } catch (IOException e) {
                    throw new IllegalStateException("memory cannot fail to be written", e);
                }
                bytes = out.toByteArray();
            } else if (wrap.equals("base64")) {
                bytes = Base64.getEncoder().encode(bytes);
            }
        }
        return new String(bytes, StandardCharsets.UTF_8);
    }

    /**
     * Reads the document out of a field's text.
     *
     * @throws XmlProblem saying what the text is not
     */
    public static Node read(String text, DocumentForm form, List<String> wraps, Name root) throws XmlProblem {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        for (int i = wraps.size() - 1; i >= 0; i--) {
            if (wraps.get(i).equals("base64")) {
                try {
                    bytes = Base64.getMimeDecoder().decode(bytes);
                } catch (IllegalArgumentException e) {
                    throw new XmlProblem("not-base64", "it is no base64", "document", 0, 0);
                }
            } else if (wraps.get(i).equals("gzip")) {
                try (GZIPInputStream zip = new GZIPInputStream(new ByteArrayInputStream(bytes))) {
                    bytes = zip.readNBytes(MOST_BYTES + 1);
                } catch (IOException e) {
                    throw new XmlProblem("not-gzip", "it is not packed by gzip", "document", 0, 0);
                }
                if (bytes.length > MOST_BYTES) {
                    throw new XmlProblem("too-large", "it unpacks to more than 16 MB", "document", 0, 0);
                }
            }
        }
        if (form == DocumentForm.JSON) {
            return JsonReader.read(bytes, root, "document", XmlLimits.MESSAGES);
        }
        if (!wraps.contains("base64")) {
            // in text the encoding a declaration names has no meaning, and white space may stand before it
            bytes = DECLARATION.matcher(text).replaceFirst("").getBytes(StandardCharsets.UTF_8);
        }
        return NodeReader.read(new ByteArrayInputStream(bytes), "document", XmlLimits.MESSAGES);
    }
}
