package wirekettle.core.schema;

import java.math.BigDecimal;
import javax.xml.datatype.DatatypeConfigurationException;
import javax.xml.datatype.DatatypeConstants;
import javax.xml.datatype.DatatypeFactory;

/** How values of a type lie to each other (XML Schema 1.0 part 2, 3.2): what bounds are held against. */
final class ValueOrder {
    private ValueOrder() {}

    /**
     * Compares two values.
     *
     * @return below, at or above 0; null where neither is the greater: NaN, a time with a zone and one without
     */
    static Integer compare(BuiltIn.Family family, String a, String b) {
        return switch (family) {
            case DECIMAL, INTEGER -> new BigDecimal(a).compareTo(new BigDecimal(b));
            case FLOAT -> floating(a, b);
            case TEMPORAL -> known(dates().newXMLGregorianCalendar(a).compare(dates().newXMLGregorianCalendar(b)));
            case DURATION -> known(dates().newDuration(a).compare(dates().newDuration(b)));
            default -> a.compareTo(b);
        };
    }

    private static Integer floating(String a, String b) {
        double first = Double.parseDouble(a.replace("INF", "Infinity"));
        double second = Double.parseDouble(b.replace("INF", "Infinity"));
        return Double.isNaN(first) || Double.isNaN(second) ? null : Integer.valueOf(Double.compare(first, second));
    }

    private static Integer known(int order) {
        return order == DatatypeConstants.INDETERMINATE ? null : Integer.valueOf(order);
    }

    private static DatatypeFactory dates() {
        try {
            return DatatypeFactory.newInstance();
        } catch (DatatypeConfigurationException e) {
            throw new IllegalStateException("every Java has dates of XML Schema", e);
        }
    }
}
