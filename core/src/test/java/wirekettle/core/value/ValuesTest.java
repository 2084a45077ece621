package wirekettle.core.value;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertThrows;

import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;

public class ValuesTest {
    @DataProvider
    public Object[][] formats() {
        ValueFormat yes = ValueFormat.words(List.of("ja"), List.of("nein"));
        ValueFormat both = ValueFormat.of(ValueFormat.Kind.DATE, "dd.MM.yyyy", "yyyy/MM/dd");
        return new Object[][] {
            {ValueFormat.number(",", null), "96,5", "96.5"},
            {ValueFormat.number(",", "."), "1.234,50", "1234.50"},
            {ValueFormat.number(",", null), "1.234,5", null},
            {ValueFormat.number(",", "."), "1,234.5", null},
            {ValueFormat.number(",", "."), "12.34,5", null},
            {ValueFormat.number(",", "."), "-1.234.567,5", "-1234567.5"},
            {ValueFormat.number(".", "'"), "1'000", "1000"},
            {ValueFormat.number(",", null), "1e2000000000", null},
            {
                ValueFormat.zoned("dd.MM.yyyy HH:mm", "Europe/Oslo", "yyyy-MM-dd'T'HH:mm", "Z"),
                "04.07.2026 09:30",
                "2026-07-04T07:30"
            },
            {ValueFormat.zoned(null, null, null, "Asia/Tokyo"), "2026-12-04T23:00:00Z", "2026-12-05T08:00:00+09:00"},
            {ValueFormat.date("dd.MM.yy"), "04.12.26", "2026-12-04"},
            {ValueFormat.date("dd-MMM-yyyy"), "04-dec-2026", "2026-12-04"},
            {ValueFormat.of(ValueFormat.Kind.BOOLEAN, null, "J/N"), "true", "J"},
            {ValueFormat.of(ValueFormat.Kind.CASE, null, "first"), "öderstad", "Öderstad"},
            {ValueFormat.keep("A-Z0-9", "-"), "A b1", "A--1"},
            {ValueFormat.cutBytes(4), "aöüb", "aö"},
            {ValueFormat.pad(5, " ", "right"), "ab", "ab   "},
            {ValueFormat.trim().then(ValueFormat.number(",", null)).then(ValueFormat.cut(3)), " 96,52 ", "96."},
            {ValueFormat.number(",", null), "abc", null},
            {ValueFormat.date("dd.MM.yyyy"), "04.12.2026", "2026-12-04"},
            {ValueFormat.date("dd.MM.yyyy"), "31.02.2026", null},
            {ValueFormat.date("yyyy-MM-dd HH:mm:ss"), "2026-12-04 09:30:00", "2026-12-04T09:30:00"},
            {both, "04.12.2026", "2026/12/04"},
            {yes, "JA", "true"},
            {yes, "nein", "false"},
            {yes, "maybe", null},
            {ValueFormat.cut(3), "Öder", "Öde"},
            {ValueFormat.trim(), "  x ", "x"},
        };
    }

    @Test(dataProvider = "formats")
    public void aFormatReadsAndWrites(ValueFormat format, String text, String expected) throws Exception {
        if (expected == null) {
            assertThrows(ConversionException.class, () -> format.compile().convert(text));
        } else {
            assertEquals(format.compile().convert(text), expected);
        }
    }

    @Test
    public void aFormatThatCannotWorkSaysWhy() {
        for (ValueFormat wrong : List.of(
                ValueFormat.of(null, null, null),
                ValueFormat.number(",", ","),
                ValueFormat.keep("[", null),
                ValueFormat.cut(0),
                ValueFormat.zoned(null, "Mars/North", null, null),
                ValueFormat.date("{"))) {
            assertThrows(IllegalArgumentException.class, wrong::compile);
        }
    }

    @DataProvider
    public Object[][] columns() {
        return new Object[][] {
            {List.of("12", "7", ""), ScalarType.INTEGER, null},
            {List.of("007", "012"), ScalarType.STRING, null},
            {List.of("12,5", "7,0"), ScalarType.DECIMAL, "decimal comma"},
            {List.of("1.234,5", "7,0"), ScalarType.DECIMAL, "decimal comma"},
            {List.of("04.12.2026", "31.01.2026"), ScalarType.DATE, "dd.MM.yyyy"},
            {List.of("12/31/2026", "01/02/2026"), ScalarType.DATE, "MM/dd/yyyy"},
            {List.of("yes", "no"), ScalarType.BOOLEAN, "yes/y/ja/j = true"},
            {List.of("true", "false"), ScalarType.BOOLEAN, null},
            {List.of("12", "A7"), ScalarType.STRING, null},
            {List.of("", " "), ScalarType.STRING, null},
        };
    }

    @Test(dataProvider = "columns")
    public void typesAreInferredFromAllValues(List<String> values, ScalarType type, String format) {
        TypeInference inference = new TypeInference();
        // the same values many times, so that a single misfit would be noticed as one
        for (int i = 0; i < 200; i++) {
            values.forEach(inference::look);
        }
        Column column = inference.column("c", "C");
        assertEquals(column.type(), type);
        assertEquals(column.format() == null ? null : column.format().label(), format);
    }

    @Test
    public void oneStrayValueAmongHundredsDoesNotHideTheType() {
        TypeInference inference = new TypeInference();
        for (int i = 0; i < 300; i++) {
            inference.look(i == 40 ? "n/a" : "12,5");
        }
        assertEquals(inference.column("c", "C").type(), ScalarType.DECIMAL);
    }

    @Test
    public void namesBecomeSafeAndUnique() {
        assertEquals(
                Layout.safeNames(List.of("Transport ref", "2nd place", "größe (cm)", "größe (cm)", "", "%")),
                List.of("Transport_ref", "_2nd_place", "größe_cm", "größe_cm_2", "column", "column_2"));
    }
}
