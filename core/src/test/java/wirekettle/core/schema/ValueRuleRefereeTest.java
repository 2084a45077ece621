package wirekettle.core.schema;

import static org.testng.Assert.assertEquals;

import java.io.StringReader;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import javax.xml.XMLConstants;
import javax.xml.transform.stream.StreamSource;
import javax.xml.validation.Schema;
import javax.xml.validation.SchemaFactory;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import org.xml.sax.SAXException;
import wirekettle.core.value.DocumentForm;
import wirekettle.core.value.XmlText;

/** What a rule lets through, the JDK's validator lets through too: nothing else may reach a wire. */
public class ValueRuleRefereeTest {
    private static final List<String> VALUES = List.of(
            "",
            " ",
            "x",
            "a b",
            "a  b",
            " a",
            "a\n",
            "0",
            "-0",
            "+0",
            "00",
            "1.",
            ".5",
            "-.5",
            "+",
            ".",
            "1,5",
            "1e5",
            "1E-5",
            "INF",
            "-INF",
            "+INF",
            "NaN",
            "nan",
            "true",
            "TRUE",
            "1",
            "yes",
            "2026-12-04",
            "2026-02-29",
            "2024-02-29",
            "2026-02-30",
            "2026-13-01",
            "2026-12-32",
            "0000-01-01",
            "-0001-01-01",
            "12026-01-01",
            "2026-1-1",
            "2026-12-04Z",
            "2026-12-04+14:00",
            "2026-12-04+14:01",
            "2026-12-04+15:00",
            "2026-12-04-13:59",
            "2026-12-04T10:00:00",
            "2026-12-04T24:00:00",
            "2026-12-04T24:00:01",
            "2026-12-04T10:60:00",
            "2026-12-04T10:00:60",
            "2026-12-04T10:00:00.123456789012",
            "2026-12-04T10:00",
            "2026-02-30T10:00:00Z",
            "-2026-02-30T10:00:00Z",
            "-2026-02-30",
            "10:00:00",
            "24:00:00",
            "24:00:01",
            "25:00:00",
            "10:00:00.5Z",
            "2026",
            "02026",
            "-2026",
            "0000",
            "99999",
            "026",
            "2026-12",
            "2026-13",
            "--12",
            "--13",
            "--12-31",
            "--02-29",
            "--02-30",
            "--04-31",
            "--04-31Z",
            "---31",
            "---32",
            "---00",
            "P",
            "P1D",
            "PT",
            "PT1S",
            "PT1.5S",
            "PT1.S",
            "P1DT",
            "-P1Y2M3DT4H5M6S",
            "P1H",
            "P-1D",
            "+P1D",
            "P1.5D",
            "0A",
            "0aF",
            "0aFf",
            "0g",
            "QUJD",
            "QUI=",
            "QQ==",
            "QUJ",
            "B1",
            "B1==",
            "B1=",
            "QR==",
            "QUK=",
            "====",
            "QUJD=",
            "Q UJD",
            "Q U J D",
            "QUJD QUJD",
            "QUJDQQ==QUJD",
            "crate:1",
            "a:b:c",
            ":a",
            "a:",
            "1a",
            "_a",
            "a-b",
            "a.b",
            "Öderstad",
            "😀",
            "a😀",
            "·a",
            "a·",
            "en",
            "en-GB",
            "en_GB",
            "englishlanguage",
            "e1",
            "en-12345678-9",
            "urn:x",
            "http://x.invalid/a b",
            "http://[",
            "%",
            "%zz",
            "a%20b",
            "#",
            "##",
            "a#b#c",
            "\\",
            "{}",
            "<&>",
            "\"'",
            "2147483647",
            "2147483648",
            "-2147483649",
            "9223372036854775808",
            "18446744073709551615",
            "18446744073709551616",
            "255",
            "256",
            "-1",
            "-129",
            "65536",
            "123456789012345678901234567890",
            "+5",
            "5-",
            "٣",
            "1\u00A0",
            "\u00A01",
            "\u2003a",
            "a\u2003b");

    @DataProvider
    public Object[][] types() {
        return BuiltIn.names().stream()
                // what these mean depends on the rest of a message: names declared in it, and identifiers used once
                .filter(n -> !List.of("NOTATION", "QName", "ENTITY", "ENTITIES", "IDREF", "IDREFS", "anySimpleType")
                        .contains(n))
                .map(n -> new Object[] {n})
                .toArray(Object[][]::new);
    }

    private static String text(String inside) {
        return "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'><xs:element name='e'>" + inside
                + "</xs:element></xs:schema>";
    }

    private static ValueRule rule(String inside) {
        EmbeddedShape shape = EmbeddedShape.read(DocumentForm.XML, null, List.of(text(inside)), "e");
        return shape.schemas().rule(shape.root().type());
    }

    private static Schema schema(String inside) throws SAXException {
        return SchemaFactory.newInstance(XMLConstants.W3C_XML_SCHEMA_NS_URI)
                .newSchema(new StreamSource(new StringReader(text(inside))));
    }

    private static boolean valid(Schema schema, String value) {
        StringBuilder xml = new StringBuilder("<e>");
        for (char c : value.toCharArray()) {
            xml.append(c == '<' ? "&lt;" : c == '&' ? "&amp;" : c == '>' ? "&gt;" : String.valueOf(c));
        }
        try {
            schema.newValidator().validate(new StreamSource(new StringReader(xml + "</e>")));
            return true;
        } catch (SAXException | java.io.IOException e) {
            return false;
        }
    }

    private static List<String> values(long seed) {
        List<String> all = new ArrayList<>(VALUES);
        Random random = new Random(seed);
        for (int i = 0; i < 300; i++) {
            String value = VALUES.get(random.nextInt(VALUES.size()));
            int at = value.isEmpty() ? 0 : random.nextInt(value.length());
            char other = "0123456789+-.:TZPDHMS=/ aAgG".charAt(random.nextInt(28));
            all.add(
                    random.nextBoolean()
                            ? value.substring(0, at) + other + value.substring(at)
                            : value.isEmpty() ? value : value.substring(0, at) + value.substring(at + 1));
        }
        all.removeIf(v -> XmlText.firstInvalid(v) >= 0);
        return all;
    }

    @Test(dataProvider = "types")
    public void whatARuleAllowsIsValid(String type) throws SAXException {
        String plain = "<xs:simpleType><xs:restriction base='xs:" + type + "'/></xs:simpleType>";
        ValueRule rule = rule(plain);
        Schema schema = schema(plain);
        List<String> wrong = new ArrayList<>();
        int refused = 0;
        for (String value : values(type.hashCode())) {
            boolean valid = valid(schema, value);
            if (rule.problem(value) == null && !valid) {
                wrong.add("let through “" + value + "”");
            }
            refused += rule.problem(value) != null && valid ? 1 : 0;
        }
        assertEquals(String.join(", ", wrong), "");
        assertEquals(refused <= 3, true, refused + " valid values are refused");
    }

    @DataProvider
    public Object[][] restrictions() {
        return new Object[][] {
            {"decimal", "<xs:totalDigits value='3'/><xs:fractionDigits value='1'/>"},
            {"decimal", "<xs:minInclusive value='-0.5'/><xs:maxExclusive value='100'/>"},
            {"int", "<xs:minExclusive value='0'/><xs:maxInclusive value='255'/>"},
            {"double", "<xs:minInclusive value='0'/>"},
            {"date", "<xs:minInclusive value='2026-01-01'/><xs:maxInclusive value='2026-12-31'/>"},
            {"dateTime", "<xs:minInclusive value='2026-12-04T10:00:00'/>"},
            {"duration", "<xs:maxInclusive value='P1D'/>"},
            {"hexBinary", "<xs:length value='1'/>"},
            {"base64Binary", "<xs:maxLength value='3'/>"},
            {"string", "<xs:minLength value='1'/><xs:maxLength value='3'/>"},
            {"string", "<xs:whiteSpace value='collapse'/><xs:maxLength value='2'/>"},
            {"token", "<xs:enumeration value='x'/><xs:enumeration value='a b'/>"},
            {"decimal", "<xs:enumeration value='1.0'/><xs:enumeration value='0'/>"},
            {"string", "<xs:pattern value='[A-Z]{1,2}\\d*'/><xs:pattern value='[a-z ]+'/>"},
            {"string", "<xs:pattern value='\\i\\c*'/>"},
            {"NMTOKENS", "<xs:maxLength value='2'/>"},
        };
    }

    @Test(dataProvider = "restrictions")
    public void whatARestrictedRuleAllowsIsValid(String type, String facets) throws SAXException {
        String restricted =
                "<xs:simpleType><xs:restriction base='xs:" + type + "'>" + facets + "</xs:restriction></xs:simpleType>";
        Schema schema = schema(restricted);
        ValueRule rule = rule(restricted);
        List<String> wrong = new ArrayList<>();
        for (String value : values(facets.hashCode())) {
            // lengths count characters (4.3.1); the JDK counts two for those beyond U+FFFF
            boolean counted = value.codePointCount(0, value.length()) == value.length();
            if (counted && rule.problem(value) == null && !valid(schema, value)) {
                wrong.add("let through “" + value + "”");
            }
        }
        assertEquals(String.join(", ", wrong), "");
    }
}
