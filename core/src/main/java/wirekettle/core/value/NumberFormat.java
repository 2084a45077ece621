package wirekettle.core.value;

import java.math.BigDecimal;
import java.math.RoundingMode;

/** Reads and writes numbers with other decimal and grouping signs. Safe for several threads. */
final class NumberFormat implements Conversion {
    private final String read;
    private final String grouping;
    private final String write;
    private final String groups;
    private final Integer decimals;

    NumberFormat(ValueFormat format) {
        this.read = format.read() == null || format.read().isEmpty() ? "." : format.read();
        this.grouping = format.grouping() == null ? "" : format.grouping();
        this.write = format.write() == null || format.write().isEmpty() ? "." : format.write();
        this.groups = format.groups() == null ? "" : format.groups();
        this.decimals = format.decimals();
        if (decimals != null && (decimals < 0 || decimals > 30)) {
            throw new IllegalArgumentException("a number is written with 0 to 30 decimals");
        }
        if (read.equals(grouping)) {
            throw new IllegalArgumentException("the decimal sign and the grouping sign are the same");
        }
    }

    @Override
    public String convert(String text) throws ConversionException {
        String plain = text.strip();
        if (!grouping.isEmpty() && plain.contains(grouping)) {
            if (!grouped(plain)) {
                throw new ConversionException(text, "a number with " + grouping + " between thousands");
            }
            plain = plain.replace(grouping, "");
        }
        if (!read.equals(".")) {
            if (plain.indexOf('.') >= 0) {
                throw new ConversionException(text, "a number with decimal sign " + read);
            }
            plain = plain.replace(read, ".");
        }
        if (plain.length() > 1_000) {
            throw new ConversionException(text, "a number of at most 1000 digits");
        }
        try {
            BigDecimal value = new BigDecimal(plain);
            if (Math.abs((long) value.scale()) > 1_000) {
                throw new ConversionException(text, "a number of at most 1000 digits");
            }
            value = decimals == null ? value : value.setScale(decimals, RoundingMode.HALF_UP);
            return written(value.toPlainString());
        } catch (NumberFormatException e) {
            throw new ConversionException(text, "a number" + (read.equals(".") ? "" : " with decimal sign " + read));
        }
    }

    /** Tells whether grouping signs stand only between groups of three digits before the decimal sign. */
    private boolean grouped(String plain) {
        int point = plain.indexOf(read);
        String whole = point < 0 ? plain : plain.substring(0, point);
        if (point >= 0 && plain.indexOf(grouping, point + 1) >= 0) {
            return false;
        }
        int start = whole.startsWith("-") || whole.startsWith("+") ? 1 : 0;
        int first = whole.indexOf(grouping);
        boolean fits = first - start >= 1 && first - start <= 3;
        for (int at = first; fits && at >= 0; ) {
            int next = whole.indexOf(grouping, at + grouping.length());
            fits = (next < 0 ? whole.length() : next) - at - grouping.length() == 3;
            at = next;
        }
        return fits;
    }

    private String written(String canonical) {
        if (groups.isEmpty()) {
            return write.equals(".") ? canonical : canonical.replace(".", write);
        }
        int point = canonical.indexOf('.');
        int first = canonical.startsWith("-") ? 1 : 0;
        StringBuilder out = new StringBuilder(point < 0 ? canonical : canonical.substring(0, point));
        for (int i = out.length() - 3; i > first; i -= 3) {
            out.insert(i, groups);
        }
        return point < 0 ? out.toString() : out + write + canonical.substring(point + 1);
    }
}
