package wirekettle.core.expression;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.util.Set;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.World;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.core.soap.security.Secrets;

/** Hashes, signatures by a secret, and other forms of bytes, against values the standards give. */
public class WireFunctionsTest {
    private static final Secrets SECRETS = new Secrets() {
        @Override
        public String text(String name) {
            if (!name.equals("desk key")) {
                throw new SecretMissing(name);
            }
            return "Jefe";
        }

        @Override
        public KeyMaterial key(String name) {
            throw new SecretMissing(name);
        }
    };

    private final Expressions expressions = new Expressions();
    private final Scope scope =
            Scope.of(SECRETS, Folders.NONE).with("t", World.tree("<t b='2' a='1'><x xmlns='urn:x'>é</x><y></y></t>"));

    private String value(String expression) throws ExpressionProblem {
        return expressions.compile(expression, Set.of("t")).text(scope);
    }

    @DataProvider
    public Object[][] values() {
        return new Object[][] {
            // FIPS 180-4, "abc"
            {"wire:hash('abc', 'SHA-256')", "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"},
            {"wire:hash('abc', 'sha-224')", "23097d223405d8228642a477bda255b32aadbce4bda0b3f7e36c9da7"},
            // RFC 4231, test case 2
            {
                "wire:hmac('what do ya want for nothing?', 'desk key', 'SHA-256')",
                "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"
            },
            {"wire:base64('Größe')", "R3LDtsOfZQ=="},
            {"wire:from-base64('R3LDts OfZQ==')", "Größe"},
            {"wire:hex('é')", "c3a9"},
            {"wire:from-hex(' c3a9 ')", "é"},
            {"wire:hex-to-base64('c3a9')", "w6k="},
            {"wire:base64-to-hex('w6k=')", "c3a9"},
            {"wire:gunzip(wire:gzip($t/x))", "é"},
            {"wire:canonical($t)", "<t a=\"1\" b=\"2\"><n1:x xmlns:n1=\"urn:x\">é</n1:x><y></y></t>"},
            {"wire:canonical($t/x)", "<n1:x xmlns:n1=\"urn:x\">é</n1:x>"},
            {"wire:hash($t/nothing, 'SHA-256')", "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"},
        };
    }

    @Test(dataProvider = "values")
    public void aFunctionGivesWhatItsStandardSays(String expression, String expected) throws Exception {
        assertEquals(value(expression), expected);
    }

    @DataProvider
    public Object[][] wrong() {
        return new Object[][] {
            {"wire:hash('a', 'MD5')", "SHA-224, SHA-256, SHA-384 and SHA-512 are"},
            {"wire:hmac('a', 'nobody', 'SHA-256')", "nobody"},
            {"wire:from-hex('xyz')", "wire:from-hex"},
            {"wire:gunzip('AAAA')", "wire:gunzip"},
            {"wire:hash(($t/x, $t/y), 'SHA-256')", "one value is wanted, there are 2"},
            {"wire:canonical('text')", "there is no element"},
            {"wire:nothing('a')", "nothing"},
        };
    }

    @Test(dataProvider = "wrong")
    public void whatCannotBeDoneIsSaid(String expression, String expected) {
        String said =
                expectThrows(ExpressionProblem.class, () -> value(expression)).getMessage();
        assertTrue(said.contains(expected) && !said.contains("Exception"), said);
    }
}
