package wirekettle.core.expression;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.util.Set;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.value.Node;

/** Expressions and scripts that never end, or take all memory: each is ended, and the engine works on. */
public class RunawaysTest {
    private final Expressions expressions = new Expressions();

    @DataProvider
    public Object[][] expressions() {
        String ones = "(1 to 1000000)";
        return new Object[][] {
            {"count(for $i in 1 to 100000, $j in 1 to 100000 return if ($i * $j = 7) then 1 else ())"},
            {"string-length(string-join(for $i in 1 to 2000000000 return 'crate'))"},
            {"let $f := function($f, $n) { $f($f, $n + 1) + 1 } return $f($f, 1)"},
            {"sum(1 to 2000000000)"},
            {"sum(" + ones + " ! " + ones + ")"},
            {"count(" + ones + " ! " + ones + "[. mod 2 = 1])"},
            {"for $i in 1 to 1000000, $j in 1 to 1000000 return $i"},
            {"some $i in 1 to 1000000, $j in 1 to 1000000 satisfies $i + $j = -1"},
            {"every $i in 1 to 1000000, $j in 1 to 1000000 satisfies $i + $j > 0"},
            {"fold-left(" + ones + " ! " + ones + ", 0, function($a, $b) { $a + $b })"},
            {"fold-left(" + ones + ", 2, function($a, $b) { $a * $a })"},
            {"fold-left(" + ones + ", 'ab', function($a, $b) { concat($a, $a) })"},
            {"fold-left(" + ones + " ! " + ones + ", 0, op#2)".replace("op#2", "function($a, $b) { $b }")},
            {"for-each(" + ones + " ! " + ones + ", abs#1)[last()]"},
            {"deep-equal(" + ones + " ! " + ones + ", " + ones + " ! " + ones + ")"},
            {"sort(" + ones + " ! " + ones + ")[1]"},
            {"distinct-values(" + ones + " ! " + ones + ")"},
            {"index-of(" + ones + " ! " + ones + ", -1)"},
            {ones + "[some $j in 1 to 1000000 satisfies $j = . + 1000001]"},
            {
                "let $l := string-join(" + ones + " ! 'aaaaaaaaaa')"
                        + " return contains($l, concat(substring($l, 1, 5000000), 'b'))"
            },
            {"$row/n ! (1 to xs:integer(.))[. = -1]"},
        };
    }

    @Test(dataProvider = "expressions", timeOut = 20_000)
    public void aRunawayExpressionIsEndedAndTheNextOneWorks(String expression) throws Exception {
        Scope scope = Scope.empty().with("row", World.record("row", "n", "2000000000"));
        expectThrows(
                ExpressionProblem.class,
                () -> expressions.compile(expression, Set.of("row")).text(scope));
        assertEquals(expressions.compile("1 + 1", null).text(Scope.empty()), "2");
    }

    @DataProvider
    public Object[][] patterns() {
        return new Object[][] {
            {"matches('%s', '^(.*a){25}b$')"}, {"matches('%s', '((a{1,50}){1,50}){1,50}b')"},
            {"replace('%s', '(a+)+b', 'x')"}, {"count(tokenize('%s', '(a|aa)+b'))"},
            {"matches('%s', '^(a?){100}a{100}b$')"}, {"matches('%s', '(([a-z])+.)+[A-Z]([a-z])+$')"},
        };
    }

    @Test(dataProvider = "patterns", timeOut = 20_000)
    public void aRegularExpressionHasAnAnswerOrIsEnded(String expression) throws Exception {
        String whole = String.format(expression, "a".repeat(2_000));
        try {
            String answer = expressions.compile(whole, null).text(Scope.empty());
            assertTrue(answer.equals("false") || answer.equals("1") || answer.startsWith("aaa"), answer);
        } catch (ExpressionProblem e) {
            assertTrue(e.getMessage().contains("was ended"), e.getMessage());
        }
    }

    @DataProvider
    public Object[][] texts() {
        return new Object[][] {
            {"upper-case(replace('abc', 'x', 'y'))", "ABC"},
            {"concat(tokenize('abc', 'x'), 'd')", "abcd"},
            {"string-join(analyze-string('abc', 'x')//text(), '') || 'd'", "abcd"},
            {"string-join(analyze-string('abc', 'b')//text(), '|')", "a|b|c"},
            {"replace('a-b', '(a)-(b)', '$2-$1')", "b-a"},
            {"substring(replace('äbc€', 'x', ''), 2)", "bc€"},
            {"string-length(replace('abc', 'b', '')) = 2 and replace('abc', 'x', '') = 'abc'", "true"},
        };
    }

    @Test(dataProvider = "texts")
    public void regularExpressionsGiveWhatTheyAlwaysGave(String expression, String value) throws Exception {
        assertEquals(expressions.compile(expression, null).text(Scope.empty()), value);
    }

    @DataProvider
    public Object[][] scripts() {
        String xslt = "<xsl:stylesheet version='3.0' xmlns:xsl='http://www.w3.org/1999/XSL/Transform'"
                + " xmlns:f='urn:f' xmlns:xs='http://www.w3.org/2001/XMLSchema'>%s</xsl:stylesheet>";
        return new Object[][] {
            {
                Script.Language.XQUERY,
                "declare function local:f($n) { if ($n = 0) then 1 else local:f($n + 1) }; <a>{local:f(1)}</a>"
            },
            {
                Script.Language.XQUERY,
                "<a>{count(for $i in 1 to 1000000, $j in 1 to 1000000 where $i = -$j return 1)}</a>"
            },
            {Script.Language.XQUERY, "<a>{for $i in 1 to 1000000 return for $j in 1 to 1000000 return <b/>}</a>"},
            {
                Script.Language.XSLT,
                String.format(
                        xslt,
                        "<xsl:template match='/*'><a><xsl:call-template name='t'><xsl:with-param name='n' select='1'/>"
                                + "</xsl:call-template></a></xsl:template><xsl:template name='t'><xsl:param name='n'/>"
                                + "<xsl:if test='$n'><xsl:call-template name='t'><xsl:with-param name='n' select='$n + 1'/>"
                                + "</xsl:call-template></xsl:if></xsl:template>")
            },
            {
                Script.Language.XSLT,
                String.format(
                        xslt,
                        "<xsl:template match='/*'><a><xsl:for-each select='1 to 1000000'><xsl:for-each"
                                + " select='1 to 1000000'><b/></xsl:for-each></xsl:for-each></a></xsl:template>")
            },
            {
                Script.Language.XSLT,
                String.format(
                        xslt,
                        "<xsl:function name='f:g'><xsl:param name='n'/><xsl:sequence select='f:g($n + 1)'/></xsl:function>"
                                + "<xsl:template match='/*'><a><xsl:value-of select='f:g(1)'/></a></xsl:template>")
            },
            {
                Script.Language.XSLT,
                String.format(
                        xslt,
                        "<xsl:template match='*'><a><xsl:apply-templates select='.' mode='m'/></a></xsl:template>"
                                + "<xsl:template match='*' mode='m'><xsl:apply-templates select='.' mode='m'/></xsl:template>")
            },
        };
    }

    @Test(dataProvider = "scripts", timeOut = 20_000)
    public void aRunawayScriptIsEndedAndTheNextOneWorks(Script.Language language, String text) throws Exception {
        Node row = World.record("row", "n", "1");
        Scope scope = Scope.empty().with("row", row);
        expectThrows(ExpressionProblem.class, () -> Script.of(language, text, "row", Set.of("row"), expressions)
                .result(scope));
        assertEquals(
                Script.of(Script.Language.XQUERY, "<a>{1 + 1}</a>", "row", Set.of("row"), expressions)
                        .result(scope)
                        .text(),
                "2");
    }

    @Test
    public void timeSpentWaitingDoesNotCount() throws Exception {
        CountDownLatch never = new CountDownLatch(1);
        boolean ended = EvaluationGuard.within(100, () -> {
            boolean released = never.await(600, TimeUnit.MILLISECONDS);
            EvaluationGuard.check();
            return released;
        });
        assertFalse(ended);
    }
}
