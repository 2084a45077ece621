package wirekettle.core.schema;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertNotNull;
import static org.testng.Assert.assertNull;

import java.io.StringReader;
import java.util.Random;
import javax.xml.XMLConstants;
import javax.xml.transform.stream.StreamSource;
import javax.xml.validation.SchemaFactory;
import javax.xml.validation.Validator;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import org.xml.sax.SAXException;
import wirekettle.core.value.XmlText;

/** Patterns of XML Schema: what they match, held against the JDK's validator, and that none of them runs away. */
public class XsdPatternTest {
    @DataProvider
    public Object[][] subtractions() {
        return new Object[][] {
            {"[a-z-[aeiou]]+", "bcd", true},
            {"[a-z-[aeiou]]+", "bad", false},
            {"[a-z-[b-y-[m]]]+", "amz", true},
            {"[a-z-[b-y-[m]]]+", "n", false},
            {"[\\w-[\\d_]]*", "Aldersund", true},
            {"[\\w-[\\d_]]*", "A1", false},
            {"[^a-[b]]", "c", true},
            {"[^a-[b]]", "b", false},
            {"[^a-[b]]", "a", false},
            {"[\\S-[x]]+", "y z", false},
            {"[\\S]+", "yz", true},
            {"[\\I]", "7", true},
            {"[\\I\\s]", "a", false},
            {"\\p{IsBasicLatin}+", "abc", true},
            {"\\p{IsBasicLatin}+", "\u00e9", false},
            {"[\\P{IsBasicLatin}x]+", "\u00e9x", true},
            {"[\\p{IsGreek}-[\u03b1]]", "\u03b2", true},
            {".", "\u0085", true},
            {".", "\n", false},
            {"a{0}b", "b", true},
            {"\\.\\$\\^", ".$^", true},
        };
    }

    @Test(dataProvider = "subtractions")
    public void classesAreReadWithSubtractionsInSubtractions(String pattern, String value, boolean matches) {
        assertEquals(XsdPattern.of(pattern).matches(value), matches);
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {"["},
            {"[]"},
            {"[b-a]"},
            {"(a"},
            {"a)"},
            {"*a"},
            {"a**"},
            {"a{2"},
            {"a{x}"},
            {"\\"},
            {"\\q"},
            {"[a[b]]"},
            {"\\p{Nothing}"},
            {"[a-[b]c]"},
            {"a{2}{3}"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatIsNoPatternIsTold(String pattern) {
        assertNull(XsdPattern.of(pattern));
    }

    @DataProvider
    public Object[][] hostile() {
        String many = "a".repeat(30_000);
        return new Object[][] {
            {"(.*a){25}b", many},
            {"((a{1,50}){1,50}){1,50}b", many},
            {"(a+)+b", many},
            {"(a|aa)*b", many},
            {"(([a-z])+.)+[A-Z]([a-z])+", many},
            {"(a?){500}a{500}", "a".repeat(499)},
            {"(a{0,1000}){1000}b", many},
            {"[a-z-[b]]*[a-z-[b]]*[a-z-[b]]*[a-z-[b]]*b", many},
        };
    }

    @Test(dataProvider = "hostile", timeOut = 60_000)
    public void noPatternRunsAway(String pattern, String value) {
        assertNotEquals(XsdPattern.of(pattern).match(value), XsdPattern.Match.YES);
    }

    /** Random patterns and values: what we say is what the validator of the JDK says. */
    @Test
    public void theValidatorOfTheJdkAgrees() throws Exception {
        Random random = new Random(11);
        for (int i = 0; i < 120; i++) {
            String pattern = pattern(random, 2);
            XsdPattern ours = XsdPattern.of(pattern);
            assertNotNull(ours, pattern);
            Validator judge = judge(pattern);
            for (int j = 0; j < 30; j++) {
                String value = value(random);
                assertEquals(ours.matches(value), says(judge, value), pattern + " and " + value);
            }
        }
    }

    private static String pattern(Random random, int depth) {
        StringBuilder out = new StringBuilder();
        int pieces = 1 + random.nextInt(3);
        for (int i = 0; i < pieces; i++) {
            out.append(
                    switch (random.nextInt(depth > 0 ? 9 : 7)) {
                        case 0 -> "a";
                        case 1 -> "[a-c]";
                        case 2 -> "[a-d-[b]]";
                        case 3 -> "\\d";
                        case 4 -> "[^a]";
                        case 5 -> ".";
                        case 6 -> "[a-e-[b-d-[c]]]";
                        case 7 -> "(" + pattern(random, depth - 1) + ")";
                        default -> "(" + pattern(random, depth - 1) + "|" + pattern(random, depth - 1) + ")";
                    });
            out.append(
                    switch (random.nextInt(7)) {
                        case 0 -> "?";
                        case 1 -> "*";
                        case 2 -> "+";
                        case 3 -> "{1,2}";
                        default -> "";
                    });
        }
        return out.toString();
    }

    private static String value(Random random) {
        StringBuilder out = new StringBuilder();
        int length = random.nextInt(5);
        for (int i = 0; i < length; i++) {
            out.append("abcde1-".charAt(random.nextInt(7)));
        }
        return out.toString();
    }

    private static Validator judge(String pattern) throws SAXException {
        String schema = "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'><xs:element name='v'><xs:simpleType>"
                + "<xs:restriction base='xs:string'><xs:pattern value=\"" + XmlText.escape(pattern)
                + "\"/></xs:restriction></xs:simpleType></xs:element></xs:schema>";
        return SchemaFactory.newInstance(XMLConstants.W3C_XML_SCHEMA_NS_URI)
                .newSchema(new StreamSource(new StringReader(schema)))
                .newValidator();
    }

    private static boolean says(Validator judge, String value) throws Exception {
        try {
            judge.validate(new StreamSource(new StringReader("<v>" + XmlText.escape(value) + "</v>")));
            return true;
        } catch (SAXException e) {
            return false;
        }
    }
}
