package wirekettle.core.schema;

import java.util.ArrayList;
import java.util.List;
import wirekettle.core.xml.Finding.Severity;
import wirekettle.core.xml.XmlElement;

/** Reads the constraining facets of a restriction (XML Schema 1.0 part 2, 4.3). */
final class FacetReader {
    private static final String XSD = BuiltIn.XSD;

    private FacetReader() {}

    /** Where oddities are reported. */
    interface Note {
        void at(XmlElement element, Severity severity, String code, String message);
    }

    /** Returns the facets given below a restriction; what is no facet is reported and left out. */
    static Facets read(XmlElement node, Note note) {
        List<String> values = new ArrayList<>();
        List<String> patterns = new ArrayList<>();
        for (XmlElement child : node.children()) {
            String value = child.attribute("value");
            if (value != null && child.local().equals("enumeration")) {
                values.add(value);
            } else if (value != null && child.local().equals("pattern")) {
                patterns.add(value);
                if (XsdPattern.of(value) == null) {
                    note.at(
                            child,
                            Severity.WARNING,
                            "bad-pattern",
                            "the pattern " + value + " is not valid and ignored");
                }
            }
        }
        Facets facets = new Facets(
                List.copyOf(values),
                List.copyOf(patterns),
                count(node, note, "length"),
                count(node, note, "minLength"),
                count(node, note, "maxLength"),
                facet(node, "minInclusive"),
                facet(node, "maxInclusive"),
                facet(node, "minExclusive"),
                facet(node, "maxExclusive"),
                count(node, note, "totalDigits"),
                count(node, note, "fractionDigits"),
                facet(node, "whiteSpace"));
        return facets.equals(Facets.NONE) ? Facets.NONE : facets;
    }

    private static String facet(XmlElement node, String local) {
        XmlElement child = node.child(XSD, local);
        return child == null ? null : child.attribute("value");
    }

    private static Integer count(XmlElement node, Note note, String local) {
        String value = facet(node, local);
        try {
            return value == null ? null : Integer.valueOf(value.strip());
        } catch (NumberFormatException e) {
            note.at(
                    node.child(XSD, local),
                    Severity.WARNING,
                    "bad-facet",
                    local + " “" + value + "” is no whole number");
            return null;
        }
    }
}
