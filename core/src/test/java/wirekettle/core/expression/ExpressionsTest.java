package wirekettle.core.expression;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.util.List;
import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

public class ExpressionsTest {
    private final Expressions expressions = new Expressions();

    @Test
    public void unprefixedNamesMatchInAnyNamespaceAndParentsStayInReach() throws Exception {
        Node event = Node.branch(new Name("urn:x", "event"), List.of(Node.leaf(new Name("urn:y", "kind"), "loaded")));
        Node reply = Node.branch(new Name("urn:x", "reply"), List.of(Node.leaf(new Name("urn:x", "ref"), "7"), event));
        Scope scope = Scope.empty().with("reply", reply).inside("row", event);
        assertEquals(expressions.compile("$reply/event/kind", Set.of("reply")).text(scope), "loaded");
        assertEquals(
                expressions
                        .compile("$reply/ref || $row/../ref", Set.of("reply", "row"))
                        .text(scope),
                "77");
        assertTrue(expressions.compile("$reply/event/kind = 'loaded'", null).test(scope));
    }

    @DataProvider
    public Object[][] plainConditions() {
        Node one = Node.branch(new Name("urn:x", "loan"), List.of(Node.leaf(new Name("urn:x", "status"), "open")));
        Node several = Node.branch(
                new Name("urn:x", "loan"),
                List.of(
                        Node.leaf(new Name("urn:x", "status"), "open"),
                        Node.leaf(new Name("urn:x", "status"), "closed")));
        Node nested = Node.branch(
                new Name("urn:x", "loan"),
                List.of(Node.branch(
                        new Name("urn:x", "status"), List.of(Node.leaf(new Name("urn:x", "code"), "open")))));
        Node none = Node.branch(new Name("urn:x", "loan"), List.of());
        Scope scope = Scope.empty();
        return new Object[][] {
            {scope.with("loan", one)},
            {scope.with("loan", several)},
            {scope.with("loan", nested)},
            {scope.with("loan", none)},
            {scope},
        };
    }

    /** A comparison of a path with a text takes a short way; what else is put beside it makes the engine decide. */
    @Test(dataProvider = "plainConditions")
    public void aPlainConditionSaysWhatTheEngineSays(Scope scope) throws Exception {
        for (String comparison : List.of("= 'open'", "!= 'open'", "= \"closed\"", "!= ''", "= ''")) {
            String condition = "$loan/status " + comparison;
            boolean plain = expressions.compile(condition, Set.of("loan")).test(scope);
            boolean engine = expressions
                    .compile("boolean(" + condition + ")", Set.of("loan"))
                    .test(scope);
            assertEquals(plain, engine, condition);
        }
    }

    @Test
    public void anUnknownVariableIsSaidWithWhatIsInReach() {
        ExpressionProblem problem =
                expectThrows(ExpressionProblem.class, () -> expressions.compile("$lone/no", Set.of("loan")));
        assertEquals(problem.getMessage(), "$lone is not known here; in reach are $loan");
    }

    @DataProvider
    public Object[][] outside() {
        return new Object[][] {
            {"doc('file:///etc/hostname')"},
            {"unparsed-text('/etc/hostname')"},
            {"environment-variable('HOME')"},
            {"collection('.')"},
            {"'/etc/hostname' => unparsed-text()"},
            {"Q{http://www.w3.org/2005/xpath-functions}doc('x')"},
            {"fn:json-doc('x')"},
            {"let $f := doc#1 return $f('file:///etc/hostname')"},
            {"transform(map{})"},
            {"function-lookup(xs:QName('fn:doc'), 1)"},
            {"available-environment-variables()"},
            {"doc (: a comment :) ('file:///etc/hostname')"},
            {"unparsed-text-lines('/etc/hostname')"},
            {"parse-xml('<!DOCTYPE a [<!ENTITY b SYSTEM \"file:///etc/hostname\">]><a>&b;</a>')"},
            {"load-xquery-module('x')"},
            {"uri-collection('/')"},
            {"doc-available('file:///etc/hostname')"},
        };
    }

    @Test(dataProvider = "outside")
    public void nothingOutsideCanBeReached(String expression) {
        expectThrows(ExpressionProblem.class, () -> {
            String got = expressions.compile(expression, null).text(Scope.empty());
            throw new AssertionError("reached: " + got);
        });
    }

    @Test
    public void anExpressionThatFailsForOneRecordSaysSo() throws Exception {
        Expressions.Compiled compiled = expressions.compile("xs:decimal($loan/value) * 2", Set.of("loan"));
        assertEquals(compiled.text(Scope.empty().with("loan", World.record("loan", "value", "2.5"))), "5");
        Scope wrong = Scope.empty().with("loan", World.record("loan", "value", "2,5"));
        assertTrue(expectThrows(ExpressionProblem.class, () -> compiled.text(wrong))
                .getMessage()
                .contains("2,5"));
    }
}
