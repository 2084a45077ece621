package wirekettle.server.contracts;

import java.util.ArrayList;
import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.schema.SheetField;

/**
 * One row of a message sheet as the screens show it.
 *
 * @param path the stable path, the target of a fill
 * @param parent the path of the row above, empty for a root
 * @param depth how far it is indented, from 0
 * @param name the local name
 * @param kind element, attribute or any
 * @param type the type in a few characters
 * @param min least occurrence
 * @param max greatest occurrence, -1 for unbounded
 * @param required whether it must be there when its parent is
 * @param leaf whether it holds text
 * @param nillable whether it may be nil
 * @param choice "1 of 3" where it is one of several, else null
 * @param documentation its documentation
 * @param facets its facets as words
 * @param values its enumeration
 * @param fixed its fixed or default value, or null
 * @param recursive whether it is expanded only by hand
 * @param unresolved whether its type is not defined in any document
 */
@Schema(
        requiredProperties = {
            "path",
            "parent",
            "depth",
            "name",
            "kind",
            "type",
            "min",
            "max",
            "required",
            "leaf",
            "nillable",
            "documentation",
            "facets",
            "values",
            "recursive",
            "unresolved"
        })
public record SheetRow(
        String path,
        String parent,
        int depth,
        String name,
        String kind,
        String type,
        int min,
        int max,
        boolean required,
        boolean leaf,
        boolean nillable,
        String choice,
        String documentation,
        List<String> facets,
        List<String> values,
        String fixed,
        boolean recursive,
        boolean unresolved) {
    private static final int MOST_ROWS = 4_000;

    static List<SheetRow> of(List<SheetField> roots) {
        List<SheetRow> rows = new ArrayList<>();
        roots.forEach(root -> add(root, 0, rows));
        return rows;
    }

    private static void add(SheetField field, int depth, List<SheetRow> rows) {
        if (rows.size() >= MOST_ROWS) {
            return;
        }
        boolean recursive = field.recursive();
        SheetField.Choice choice = field.choice();
        rows.add(new SheetRow(
                field.path(),
                field.parent() == null ? "" : field.parent().path(),
                depth,
                field.name().local(),
                field.kind().name().toLowerCase(java.util.Locale.ROOT),
                field.typeLabel(),
                field.min(),
                field.max(),
                field.required(),
                field.holdsText() && field.kind() != SheetField.Kind.ANY,
                field.nillable(),
                choice == null ? null : choice.branch() + " of " + choice.of(),
                field.documentation(),
                field.rule() == null ? List.of() : field.rule().facetWords(),
                field.rule() == null ? List.of() : field.rule().enumeration(),
                field.fixed() != null ? field.fixed() : field.defaultValue(),
                recursive,
                field.unresolved()));
        if (!recursive) {
            field.children().forEach(child -> add(child, depth + 1, rows));
        }
    }
}
