package wirekettle.server.secrets;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.file.Files;
import java.util.List;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.soap.security.Secrets;
import wirekettle.server.Database;

public class StoredSecretsTest {
    private static final String DESK = "desk.vanline.invalid:443";

    private Database database;
    private StoredSecrets secrets;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        secrets = SecretsOf.one(
                database, Files.createTempDirectory("secrets"), "vanline password", "straw and twine 91", DESK);
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    @Test
    public void aSecretGoesOnlyWhereItMay() {
        assertEquals(secrets.sentTo(DESK).text("vanline password"), "straw and twine 91");
        for (String other : new String[] {"desk.vanline.invalid:80", "other.invalid:443", "", null}) {
            Secrets there = secrets.sentTo(other);
            expectThrows(Secrets.SecretElsewhere.class, () -> there.text("vanline password"));
        }
        expectThrows(Secrets.SecretElsewhere.class, () -> secrets.text("vanline password"));
        expectThrows(Secrets.SecretMissing.class, () -> secrets.sentTo(DESK).text("register password"));
        assertEquals(
                secrets.notFor("other.invalid:443", List.of("vanline password", "no such")),
                List.of("vanline password"));
    }

    @Test
    public void aChangeCountsForCallsMadeReadyBefore() {
        Secrets desk = secrets.sentTo(DESK);
        long version = secrets.version();
        desk.text("vanline password");
        secrets.write("vanline password", "wax and paper 17", "bo");
        assertEquals(desk.text("vanline password"), "wax and paper 17");
        assertTrue(secrets.version() > version);
        secrets.allow("vanline password", List.of());
        expectThrows(Secrets.SecretElsewhere.class, () -> desk.text("vanline password"));
        secrets.remove("vanline password");
        expectThrows(Secrets.SecretMissing.class, () -> desk.text("vanline password"));
    }

    @Test
    public void whatWasASecretIsHiddenOnAfterItChanged() {
        secrets.write("vanline password", "wax and paper 17", "bo");
        secrets.remove("vanline password");
        String hidden = secrets.masking().mask("first straw and twine 91, then wax and paper 17");
        assertFalse(hidden.contains("straw") || hidden.contains("wax"), hidden);
    }

    @Test
    public void theDatabaseAloneTellsNothing() throws Exception {
        String kept = database.value("select encode(sealed, 'escape') from secret");
        assertFalse(kept.contains("straw"), kept);
    }
}
