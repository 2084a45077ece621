package wirekettle.core.record;

import java.util.Collection;
import java.util.List;
import wirekettle.core.schema.BuiltIn;
import wirekettle.core.value.Column;
import wirekettle.core.value.XmlText;

/** Nested records as XML Schema 1.0. */
public final class RecordSchema {
    private RecordSchema() {}

    /**
     * Returns the type of an element that holds a record: its fields one after the other, each an element of its own.
     *
     * @param columns its fields; a name is a place
     * @param lists the places that repeat
     * @return an {@code xs:complexType} without a name; its prefix for {@link BuiltIn#XSD} is {@code xs}
     */
    public static String type(List<Column> columns, Collection<String> lists) {
        StringBuilder out = new StringBuilder();
        type(PlaceTree.of(columns, lists), out);
        return out.toString();
    }

    private static void type(PlaceTree level, StringBuilder out) {
        out.append("<xs:complexType><xs:sequence>");
        level.children().forEach((name, field) -> {
            out.append("<xs:element name=\"").append(XmlText.attribute(name)).append('"');
            if (field.repeats() || field.required().isEmpty()) {
                out.append(" minOccurs=\"0\"");
            }
            if (field.repeats()) {
                out.append(" maxOccurs=\"unbounded\"");
            }
            Column column = field.column();
            if (column == null) {
                out.append('>');
                type(field, out);
                out.append("</xs:element>");
            } else {
                out.append(column.required() ? "" : " nillable=\"true\"")
                        .append(" type=\"xs:")
                        .append(builtIn(column))
                        .append("\"");
                if (column.label() == null || name.equals(column.label())) {
                    out.append("/>");
                } else {
                    out.append("><xs:annotation><xs:documentation>")
                            .append(XmlText.escape(column.label()))
                            .append("</xs:documentation></xs:annotation></xs:element>");
                }
            }
        });
        out.append("</xs:sequence></xs:complexType>");
    }

    /** What is written in a format of its own is a text. */
    private static String builtIn(Column column) {
        if (column.format() != null) {
            return "string";
        }
        return switch (column.type()) {
            case INTEGER -> "integer";
            case DECIMAL -> "decimal";
            case BOOLEAN -> "boolean";
            case DATE -> "date";
            case DATETIME -> "dateTime";
            case TIME -> "time";
            default -> "string";
        };
    }
}
