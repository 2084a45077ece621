package wirekettle.core.fill;

import java.io.IOException;
import java.util.Base64;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.attachments.MediaTypes;
import wirekettle.core.value.Content;
import wirekettle.core.value.Node;

/** Writes the content a column is filled with to a folder, compiled. Safe for several threads. */
final class KeptFile {
    private final String folder;
    private final ValueSource name;
    private final String column;

    private KeptFile(String folder, ValueSource name, String column) {
        this.folder = folder;
        this.name = name;
        this.column = column;
    }

    static KeptFile of(Fill fill, MappingContext context, Set<String> known) throws ExpressionProblem {
        String folder = fill.file().folder();
        if (folder == null || !context.folders().contains(folder)) {
            throw new ExpressionProblem(
                    folder == null || folder.isBlank()
                            ? "names no folder: pick one"
                            : "the folder “" + folder + "” is not there: pick another",
                    0);
        }
        String name = fill.file().name();
        if (name == null || name.isBlank()) {
            return new KeptFile(folder, null, fill.target());
        }
        Fill naming = WirePath.isPath(name)
                ? Fill.wire(fill.id(), fill.target(), name)
                : Fill.expression(fill.id(), fill.target(), name);
        return new KeptFile(folder, ValueSource.of(naming, context.expressions(), known), fill.target());
    }

    String folder() {
        return folder;
    }

    /** Writes content that came beside its message, or as base64 in it; null where a node holds none. */
    String written(Node node, Scope scope) throws FillFailure {
        if (node == null || node.nil()) {
            return null;
        }
        return node.content() != null ? kept(node.content(), scope) : written(node.text(), scope);
    }

    /** Writes content that is a text of base64; null for none. */
    String written(String base64, Scope scope) throws FillFailure {
        if (base64 == null || base64.isBlank()) {
            return null;
        }
        byte[] bytes;
        try {
            bytes = Base64.getDecoder().decode(base64.replaceAll("\\s", ""));
        } catch (IllegalArgumentException e) {
            throw new FillFailure("file", base64, "is no base64: there is no content to be written to a file");
        }
        return kept(Content.of(bytes), scope);
    }

    private String kept(Content content, Scope scope) throws FillFailure {
        String called;
        try {
            called = name == null ? null : name.raw(scope);
        } catch (ExpressionProblem e) {
            throw new FillFailure("expression", "", "the name of its file: " + e.getMessage());
        }
        String given = called == null || called.isBlank() ? made(content, scope) : called;
        try {
            return scope.files().keep(folder, given, content);
        } catch (Folders.NoSuchFile e) {
            throw new FillFailure("file", given, e.getMessage());
        } catch (IOException e) {
            throw new FillFailure("file", given, "could not be written: " + e.getMessage());
        }
    }

    private String made(Content content, Scope scope) {
        Node run = scope.get("run");
        String record = run == null ? "" : run.textOf("id") + "-" + run.textOf("record") + "-";
        return record + column.replace('/', '-') + MediaTypes.ending(content.type());
    }
}
