package wirekettle.core.schema;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;

import java.util.ArrayList;
import java.util.List;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.value.Name;

public class ValueRuleTest {
    private final SchemaSet none = SchemaReader.read(List.of(), new ArrayList<>());

    @DataProvider
    public Object[][] values() {
        return new Object[][] {
            {"decimal", "96.5", true},
            {"decimal", "96,5", false},
            {"decimal", "+.5", true},
            {"decimal", "", false},
            {"int", "2147483647", true},
            {"int", "2147483648", false},
            {"integer", " 12 ", true},
            {"boolean", "1", true},
            {"boolean", "yes", false},
            {"date", "2026-12-04", true},
            {"date", "2026-02-30", false},
            {"date", "04.12.2026", false},
            {"date", "2026-12-04+01:00", true},
            {"dateTime", "2026-12-04T24:00:00", true},
            {"dateTime", "2026-12-04 10:00:00", false},
            {"gYear", "1860", true},
            {"duration", "P1DT2H", true},
            {"duration", "P", false},
            {"hexBinary", "0aF", false},
            {"base64Binary", "QUJD", true},
            {"float", "-INF", true},
            {"NCName", "crate:1", false},
            {"language", "en-GB", true},
            {"unsignedByte", "256", false},
            {"negativeInteger", "0", false},
            {"token", "two  spaces", true},
        };
    }

    @Test(dataProvider = "values")
    public void builtInTypesKnowTheirLexicalSpace(String type, String value, boolean fine) {
        ValueRule rule = none.rule(TypeUse.named(new Name(BuiltIn.XSD, type)));
        assertEquals(rule.problem(value) == null, fine, String.valueOf(rule.problem(value)));
    }

    @DataProvider
    public Object[][] facets() {
        Facets digits = new Facets(List.of(), List.of(), null, null, null, "0", "99.9", null, null, 3, 1, null);
        Facets text = new Facets(List.of(), List.of(), null, 2, 4, null, null, null, null, null, null, null);
        Facets words =
                new Facets(List.of("A", "B1"), List.of(), null, null, null, null, null, null, null, null, null, null);
        Facets shape = new Facets(
                List.of(),
                List.of("\\d{2}", "[A-Z-[IO]]+"),
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null);
        return new Object[][] {
            {"decimal", digits, "12.5", null}, {"decimal", digits, "12.55", "2 decimals, at most 1"},
            {"decimal", digits, "100", "more than 99.9"}, {"decimal", digits, "-1", "less than 0"},
            {"string", text, "abcde", "5 characters, at most 4"}, {"string", text, "a", "1 characters, at least 2"},
            {"string", text, "\uD83D\uDD11\uD83D\uDD11", null}, {"string", words, "C", "not one of A, B1"},
            {"string", shape, "42", null}, {"string", shape, "ABC", null},
            {"string", shape, "AIC", "does not match \\d{2}"},
        };
    }

    @Test(dataProvider = "facets")
    public void facetsAreCheckedAndSaidInWords(String type, Facets facets, String value, String problem) {
        ValueRule rule = none.rule(TypeUse.named(new Name(BuiltIn.XSD, type))).restricted(facets);
        String said = rule.problem(value);
        if (problem == null) {
            assertNull(said);
        } else {
            assertEquals(said == null ? null : said.replace("\\p{Nd}", "\\d"), problem);
        }
    }

    @DataProvider
    public Object[][] patterns() {
        return new Object[][] {
            {"[A-Z]{2}-\\d{5}", 0}, {"(a|bc)+x?", 6}, {"\\i\\c*", 4}, {"[^0-9]{3}", 3}, {"\\p{Lu}\\P{Lu}{2}", 3},
            {"(\\+?\\d{1,3} )?\\d{4,}", 9}, {"[a-z-[aeiou]]{2,4}", 3}, {"\\.\\$\\^", 3}, {".{5}", 5}, {"x{0}y", 1},
        };
    }

    @Test(dataProvider = "patterns")
    public void anExampleMatchesItsPatternAndLength(String pattern, int minLength) {
        String made = PatternExample.of(pattern, minLength, 40).orElse("nothing was made");
        assertEquals(XsdPattern.of(pattern).matches(made), true, made);
        assertEquals(made.length() >= minLength, true, made);
    }
}
