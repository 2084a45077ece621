package wirekettle.server.contracts;

import java.util.List;
import org.eclipse.microprofile.openapi.annotations.media.Schema;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.DocumentForm;

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
 * @param choiceGroup the same for all branches of one choice, else null
 * @param choiceRequired whether one branch must be there
 * @param documentation its documentation
 * @param facets its facets as words
 * @param values its enumeration
 * @param fixed its fixed or default value, or null
 * @param recursive whether it is expanded only by hand
 * @param unresolved whether its type is not defined in any document
 * @param expandable whether there are fields below
 * @param expanded whether they are shown
 * @param typeChoices how many derived types may be picked, 0 when the type is settled
 * @param elementChoices how many elements may stand in its place, 0 when none but itself
 * @param mustPick whether it is abstract, so that one of them must be picked
 * @param picked the derived type picked, or null
 * @param occurrence which of repeated elements, from 1
 * @param next the path of a further occurrence, null when it is the only one allowed
 * @param document xml or json where the field holds a document of its own, else null
 * @param binary whether it holds base64, where the content of a file can be sent
 * @param declared the path of the field as declared, the same as path unless something was picked
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
            "unresolved",
            "choiceRequired",
            "expandable",
            "expanded",
            "typeChoices",
            "elementChoices",
            "mustPick",
            "occurrence",
            "binary",
            "declared"
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
        String choiceGroup,
        boolean choiceRequired,
        String documentation,
        List<String> facets,
        List<String> values,
        String fixed,
        boolean recursive,
        boolean unresolved,
        boolean expandable,
        boolean expanded,
        int typeChoices,
        int elementChoices,
        boolean mustPick,
        String picked,
        int occurrence,
        String next,
        DocumentForm document,
        boolean binary,
        String declared) {
    static SheetRow of(SheetField field, int depth, boolean expanded) {
        SheetField.Choice choice = field.choice();
        String parent = field.parent() == null ? "" : field.parent().path();
        boolean more = field.kind() == SheetField.Kind.ELEMENT && (field.max() < 0 || field.occurrence() < field.max());
        return new SheetRow(
                field.path(),
                parent,
                depth,
                field.name().local(),
                field.kind().name().toLowerCase(java.util.Locale.ROOT),
                field.typeLabel(),
                field.min(),
                field.max(),
                field.required(),
                field.holdsText() && field.kind() != SheetField.Kind.ANY && field.document() == null,
                field.nillable(),
                choice == null ? null : choice.branch() + " of " + choice.of(),
                choice == null ? null : parent + " " + choice.group(),
                choice != null && choice.required(),
                field.documentation(),
                field.rule() == null ? List.of() : field.rule().facetWords(),
                field.rule() == null ? List.of() : field.rule().enumeration(),
                field.fixed() != null ? field.fixed() : field.defaultValue(),
                field.recursive(),
                field.unresolved(),
                !field.children().isEmpty(),
                expanded,
                field.typeChoices().size(),
                field.elementChoices().size(),
                field.isAbstract(),
                field.picked() == null ? null : field.picked().local(),
                field.occurrence(),
                more ? next(field) : null,
                field.document() == null ? null : field.document().form(),
                binary(field),
                field.declaredField().path());
    }

    private static boolean binary(SheetField field) {
        return field.kind() == SheetField.Kind.ELEMENT
                && field.rule() != null
                && field.rule().builtIn() != null
                && field.rule().builtIn().name().equals("base64Binary");
    }

    /** Returns the path of the occurrence after this one, with the same picks. */
    private static String next(SheetField field) {
        SheetPath path = SheetPath.parse(field.path());
        SheetPath.Step last = path.last();
        return path.parent().toString() + new SheetPath.Step(last.name(), false, last.occurrence() + 1, last.type());
    }
}
