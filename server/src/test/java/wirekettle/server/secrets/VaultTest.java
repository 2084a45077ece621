package wirekettle.server.secrets;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.server.web.Problem;

public class VaultTest {
    private Path folder;

    @BeforeMethod
    public void folder() throws Exception {
        folder = Files.createTempDirectory("vault");
    }

    @Test
    public void whatIsSealedOpensAgainUnderItsNameAlone() {
        Vault vault = Vaults.at(folder.resolve("keys/secret.key"));
        byte[] sealed = vault.seal("vanline password", "öpen, ünder: \u0000");
        assertFalse(new String(sealed, StandardCharsets.ISO_8859_1).contains("pen"));
        assertEquals(vault.open("vanline password", sealed), "öpen, ünder: \u0000");
        Problem other = expectThrows(Problem.class, () -> vault.open("register password", sealed));
        assertTrue(other.getMessage().contains("register password"), other.getMessage());
    }

    @Test
    public void theSameSecretIsNeverSealedTheSameWay() {
        Vault vault = Vaults.at(folder.resolve("secret.key"));
        assertNotEquals(vault.seal("a", "text"), vault.seal("a", "text"));
    }

    @Test
    public void aServerThatStartsAgainOpensWhatWasSealedBefore() {
        Path key = folder.resolve("secret.key");
        byte[] sealed = Vaults.at(key).seal("a", "text");
        assertEquals(Vaults.at(key).open("a", sealed), "text");
    }

    @Test
    public void anotherKeyOpensNothingAndSaysWhatToDo() {
        byte[] sealed = Vaults.at(folder.resolve("first.key")).seal("a", "text");
        Problem problem = expectThrows(
                Problem.class, () -> Vaults.at(folder.resolve("second.key")).open("a", sealed));
        assertTrue(problem.getMessage().contains("put the old key file back"), problem.getMessage());
    }

    @Test
    public void onlyTheServersOwnAccountReadsTheKey() throws Exception {
        Path key = folder.resolve("secret.key");
        Vaults.at(key).seal("a", "text");
        assertEquals(PosixFilePermissions.toString(Files.getPosixFilePermissions(key)), "rw-------");
    }

    @DataProvider
    public Object[][] damaged() {
        return new Object[][] {{""}, {"no base64 at all!"}, {"c2hvcnQ="}};
    }

    @Test(dataProvider = "damaged")
    public void aKeyFileWithoutAKeyIsNotWrittenOver(String content) throws Exception {
        Path key = folder.resolve("secret.key");
        Files.writeString(key, content);
        Problem problem = expectThrows(Problem.class, () -> Vaults.at(key).seal("a", "text"));
        assertTrue(problem.getMessage().contains("32 bytes in base64"), problem.getMessage());
        assertEquals(Files.readString(key), content);
    }
}
