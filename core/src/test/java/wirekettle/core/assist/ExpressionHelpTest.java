package wirekettle.core.assist;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.expression.Expressions;
import wirekettle.core.expression.Scope;
import wirekettle.core.fill.Fill;
import wirekettle.core.fill.ValueSource;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Secrets;

public class ExpressionHelpTest {
    private static final Map<String, String> TYPES = Map.of(
            "$loan/kg",
            "decimal",
            "$loan/n",
            "integer",
            "$loan/flag",
            "boolean",
            "$loan/day",
            "date",
            "$loan/a",
            "string");
    private final Expressions expressions = new Expressions();

    @Test
    public void everyFunctionOfferedWorksAsItsExampleSays() throws Exception {
        Scope scope = Scope.of(Secrets.STAND_INS, Folders.NONE)
                .with(
                        "loan",
                        World.tree("<loan><a>HC-7</a><b>y</b><n>12</n><day>2026-12-04</day>"
                                + "<at>2026-12-04T10:20:00Z</at><flag>true</flag></loan>"));
        String docs = Files.readString(Path.of("../docs/expressions.md"));
        for (ExpressionHelp.Function function : ExpressionHelp.FUNCTIONS) {
            String value =
                    expressions.compile(function.example(), Set.of("loan")).text(scope);
            assertTrue(!value.isEmpty() || function.name().equals("empty"), function.example());
            assertTrue(docs.contains("`" + function.signature() + "`"), function.signature() + " is not in the docs");
        }
    }

    @DataProvider
    public Object[][] comparisons() {
        return new Object[][] {
            {"$loan/kg gt 100", "$loan/kg"},
            {"$loan/kg > 100", null},
            {"$loan/kg > $loan/n", "$loan/kg $loan/n"},
            {"xs:decimal($loan/kg) gt 100", null},
            {"$loan/kg = '96.5'", "$loan/kg"},
            {"$loan/a = 'x'", null},
            {"'2026-12-04' lt $loan/day", "$loan/day"},
            {"if ($loan/flag) then 1 else 2", "$loan/flag"},
            {"if ($loan/a = 'x' and $loan/flag) then 1 else 2", "$loan/flag"},
            {"not($loan/flag)", "$loan/flag"},
            {"concat('$loan/flag or ', $loan/a)", null},
            {"xs:boolean($loan/flag)", null},
        };
    }

    @Test(dataProvider = "comparisons")
    public void uncastComparisonsOfTypedFieldsAreFlagged(String expression, String flagged) {
        List<ExpressionHelp.Hint> hints = ExpressionHelp.uncast(expression, TYPES);
        String paths = String.join(
                " ",
                hints.stream().map(h -> expression.substring(h.from(), h.to())).toList());
        assertEquals(paths, flagged == null ? "" : flagged, hints.toString());
        for (ExpressionHelp.Hint hint : hints) {
            String mended = expression.substring(0, hint.from()) + hint.instead() + expression.substring(hint.to());
            assertTrue(ExpressionHelp.uncast(mended, TYPES).size() < hints.size(), mended);
        }
    }

    @Test
    public void anExpressionIsTriedWhereItWouldStand() {
        Scope scope = Scope.empty()
                .with("loan", World.tree("<loan><crate><kg>4</kg></crate><crate><kg>5</kg></crate></loan>"));
        List<Fill> fills = List.of(Fill.repeat("r", "/a/crate", "$loan/crate", "crate"));
        ExpressionTrial.Result inside = ExpressionTrial.of(
                "xs:integer($crate/kg) * 2", fills, "/a/crate/kg", Set.of("loan"), scope, expressions);
        assertEquals(inside.value(), "8");
        ExpressionTrial.Result outside =
                ExpressionTrial.of("$crate/kg", fills, "/a/remark", Set.of("loan"), scope, expressions);
        assertTrue(outside.problem().contains("$crate is not known here"), outside.problem());
        ExpressionTrial.Result wrong = ExpressionTrial.of(
                "concat($loan/crate[1], nothing(4))", fills, "/a", Set.of("loan"), scope, expressions);
        assertNull(wrong.value());
        assertTrue(wrong.column() > 0 && wrong.problem().contains("nothing"), wrong.toString());
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {"concat($loan/a, upper-case($loan/", 33, "not finished"},
            {"concat($loan/a, nothing(4))", 17, "there is no function nothing() of 1 argument"},
            {"if (true()) then substring($loan/a) else ''", 18, "no function substring() of 1 argument"},
            {"1 + $nobody/x", 5, "$nobody is not known here"},
            {"'abc", 1, "a quote is opened and not closed"},
            {"xs:decimal($loan/a", 18, "but it ends there"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsWrongIsToldInPlainWordsWithItsPlace(String expression, int column, String said) {
        ExpressionTrial.Result told =
                ExpressionTrial.of(expression, List.of(), null, Set.of("loan"), null, expressions);
        assertTrue(told.problem().contains(said), told.problem());
        assertEquals(told.column(), column, told.problem());
    }

    @DataProvider
    public Object[][] plain() {
        return new Object[][] {
            {"concat($loan/a, '/', $loan/b)"},
            {"$loan/a || \" \" || $loan/missing"},
            {"substring($loan/a, 2)"},
            {"substring($loan/a, 0, 3)"},
            {"substring($loan/long, 2, 100)"},
            {"upper-case($loan/small)"},
            {"lower-case(concat($loan/a, $loan/b))"},
            {"string($loan/a)"},
            {"substring($loan/emoji, 2, 1)"},
            {"concat($loan/branch, 'x')"},
            {"concat('it''s', $loan/a)"},
            {"translate($loan/a, 'H-', 'h')"},
            {"translate($loan/emoji, 'ac', 'xy')"},
            {"xs:decimal($loan/kg) gt xs:decimal($loan/limit)"},
            {"xs:decimal(translate($loan/comma, ',', '.')) le xs:decimal($loan/kg)"},
            {"xs:decimal($loan/kg) eq xs:decimal('12.50')"},
            {"xs:decimal($loan/kg) ne xs:decimal('12.5')"},
            {"xs:decimal($loan/spaced) lt xs:decimal($loan/minus)"},
            {"xs:decimal($loan/minus) ge xs:decimal($loan/digits)"},
            {"xs:decimal($loan/missing) ge xs:decimal($loan/kg)"},
        };
    }

    @Test(dataProvider = "plain")
    public void aPlainExpressionSaysWhatTheEngineSays(String expression) throws Exception {
        Scope scope = Scope.empty()
                .with(
                        "loan",
                        World.tree("<loan><a>HC-1</a><b>Ö</b><small>größe</small><long>abc</long><emoji>a😀c</emoji>"
                                + "<kg>12.5</kg><limit>9</limit><comma>12,5</comma><spaced> 7 </spaced><minus>-0.5</minus>"
                                + "<digits>123456789012345678.25</digits>"
                                + "<branch>t<x>u</x></branch></loan>"));
        String engine = expressions.compile(expression, Set.of("loan")).text(scope);
        String ours = ValueSource.of(Fill.expression("a", "t", expression), expressions, Set.of("loan"))
                .raw(scope);
        assertEquals(ours, engine);
    }
}
