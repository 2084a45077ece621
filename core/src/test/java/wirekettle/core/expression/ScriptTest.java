package wirekettle.core.expression;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Set;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.value.Node;

/** Scripts reach nothing but the record, whatever they try, and are ended when they do not end. */
public class ScriptTest {
    private static final String XSLT = "<t:stylesheet xmlns:t='http://www.w3.org/1999/XSL/Transform' version='3.0'"
            + " xmlns:f='http://www.w3.org/2005/xpath-functions'>";
    private final Expressions expressions = new Expressions();
    private Path folder;

    @BeforeClass
    public void somethingToReach() throws IOException {
        folder = Files.createTempDirectory("script-test");
        Files.writeString(folder.resolve("told.txt"), "told");
        Files.writeString(folder.resolve("told.xml"), "<told/>");
        Files.writeString(folder.resolve("told.xqm"), "module namespace m='urn:m'; declare function m:f() {'told'};");
        Files.writeString(folder.resolve("told.xsl"), XSLT + "<t:template name='x'>told</t:template></t:stylesheet>");
    }

    private Node made(Script.Language language, String text) throws ExpressionProblem {
        Script script = Script.of(language, text, "loan", Set.of("loan"), expressions);
        return script.result(Scope.empty().with("loan", World.tree("<loan><no>HC-1</no></loan>")));
    }

    private static String sheet(String inside) {
        return XSLT + "<t:template match='*'><made>" + inside + "</made></t:template></t:stylesheet>";
    }

    @DataProvider
    public Object[][] attempts() {
        return new Object[][] {
            {Script.Language.XQUERY, "import module namespace m='urn:m' at 'FOLDERtold.xqm'; <a>{m:f()}</a>"},
            {Script.Language.XQUERY, "<a>{doc('FOLDERtold.xml')}</a>"},
            {
                Script.Language.XQUERY,
                "declare namespace f='http://www.w3.org/2005/xpath-functions'; <a>{f:unparsed-text('FOLDERtold.txt')}</a>"
            },
            {Script.Language.XQUERY, "<a>{Q{http://www.w3.org/2005/xpath-functions}unparsed-text('FOLDERtold.txt')}</a>"
            },
            {Script.Language.XQUERY, "<a>{environment-variable('PATH')}</a>"},
            {Script.Language.XQUERY, "<a>{function-lookup(xs:QName('fn:doc'), 1)('FOLDERtold.xml')}</a>"},
            {Script.Language.XSLT, "<!DOCTYPE a [<!ENTITY e SYSTEM 'FOLDERtold.txt'>]>" + sheet("&e;")},
            {Script.Language.XSLT, "<!DOCTYPE a SYSTEM 'FOLDERtold.txt'>" + sheet("")},
            {
                Script.Language.XSLT,
                XSLT
                        + "<t:include href='FOLDERtold.xsl'/><t:template match='*'><t:call-template name='x'/></t:template></t:stylesheet>"
            },
            {
                Script.Language.XSLT,
                XSLT
                        + "<t:import href='FOLDERtold.xsl'/><t:template match='*'><t:call-template name='x'/></t:template></t:stylesheet>"
            },
            {Script.Language.XSLT, sheet("<t:value-of select=\"f:unparsed-text('FOLDERtold.txt')\"/>")},
            {Script.Language.XSLT, sheet("<t:copy-of select=\"document('FOLDERtold.xml')\"/>")},
            {Script.Language.XSLT, sheet("<t:value-of select=\"f:environment-variable('PATH')\"/>")},
            {
                Script.Language.XSLT,
                sheet("<t:source-document href='FOLDERtold.xml'><t:copy-of select='.'/></t:source-document>")
            },
            {Script.Language.XSLT, sheet("<t:result-document href='FOLDERwritten.xml'><b/></t:result-document>")},
        };
    }

    @Test(dataProvider = "attempts")
    public void nothingOutsideIsReachedOrWritten(Script.Language language, String text) {
        String aimed = text.replace("FOLDER", folder.toUri().toString());
        ExpressionProblem refused = expectThrows(ExpressionProblem.class, () -> made(language, aimed));
        assertFalse(refused.getMessage().isBlank());
        assertFalse(Files.exists(folder.resolve("written.xml")));
    }

    @Test
    public void systemPropertiesTellNothingOfTheMachine() throws ExpressionProblem {
        for (String name : new String[] {"user.home", "user.name", "java.version", "os.name"}) {
            assertEquals(
                    made(Script.Language.XSLT, sheet("<t:value-of select=\"system-property('" + name + "')\"/>"))
                            .text(),
                    "");
        }
    }

    @DataProvider
    public Object[][] endless() {
        return new Object[][] {
            {Script.Language.XQUERY, "declare function local:f($n) { local:f($n + 1) + 1 }; <a>{local:f(1)}</a>"},
            {Script.Language.XQUERY, "<a>{count(for $x in 1 to 1000000, $y in 1 to 1000000 return $x * $y)}</a>"},
            {Script.Language.XQUERY, "<a>{string-join((1 to 1000000) ! (1 to 1000000) ! string(.))}</a>"},
            {
                Script.Language.XSLT,
                sheet("<t:value-of select='count(((1 to 1000000) ! (1 to 1000000))[. mod 7 = count($loan)])'/>")
                        .replace("<t:template", "<t:param name='loan'/><t:template")
            },
        };
    }

    @Test(dataProvider = "endless")
    public void aScriptThatDoesNotEndIsEnded(Script.Language language, String text) {
        ExpressionProblem ended = expectThrows(ExpressionProblem.class, () -> made(language, text));
        assertTrue(ended.getMessage().matches(".*(was ended|recursion).*"), ended.getMessage());
    }

    @DataProvider
    public Object[][] unsound() {
        return new Object[][] {
            {Script.Language.XQUERY, "", "no text yet"},
            {Script.Language.XQUERY, "<a>\n{1 +}</a>", "expected"},
            {Script.Language.XQUERY, "declare option saxon:output 'x'; <a/>", ""},
            {Script.Language.XQUERY, "1 + 1", "makes no element"},
            {Script.Language.XQUERY, "<a/>, <b/>", "makes 2 elements"},
            {Script.Language.XSLT, "<a>", ""},
            {Script.Language.XSLT, XSLT + "<t:param name='other'/></t:stylesheet>", "the parameter other is not known"},
            {Script.Language.XSLT, sheet("<t:value-of select='nothing()'/>"), "nothing"},
        };
    }

    @Test(dataProvider = "unsound")
    public void whatCannotWorkIsAProblemNeverAnError(Script.Language language, String text, String said) {
        ExpressionProblem problem = expectThrows(ExpressionProblem.class, () -> made(language, text));
        assertTrue(problem.getMessage().contains(said), problem.getMessage());
    }
}
