package wirekettle.server.signin;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.time.Instant;
import java.util.List;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.server.Database;
import wirekettle.server.web.Problem;

/** People, their sessions and wrong sign-ins in a real database. */
public class SignInTest {
    private Database database;
    private PersonMapper people;
    private Sessions sessions;

    @BeforeClass
    public void open() throws Exception {
        database = Database.open();
        people = database.mapper(PersonMapper.class);
    }

    @AfterClass(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    @BeforeMethod
    public void ada() throws Exception {
        database.execute("delete from person");
        database.execute("delete from sign_in_failure");
        people.add("ada", "hash", true, false, "Test,Live");
        sessions = new Sessions();
        sessions.people = people;
    }

    private String signedIn(String name) {
        String token = Tokens.random();
        people.open(Tokens.hash(token), people.byName(name).id());
        return token;
    }

    @Test
    public void aSessionBelongsToItsPersonUntilItEnds() {
        String token = signedIn("ada");
        Person ada = sessions.person(token);
        assertEquals(ada.name() + ada.run(), "ada[Test, Live]");
        assertTrue(ada.may(Right.BUILD) && ada.may(Right.RUN) && ada.may(Right.LOOK));
        assertFalse(ada.may(Right.MANAGE));
        assertTrue(sessions.known(token));
        sessions.end(token);
        assertNull(sessions.person(token));
        assertFalse(sessions.known(token));
    }

    @Test
    public void theDatabaseHoldsNoTokenThatCouldBeUsed() throws Exception {
        String token = signedIn("ada");
        String kept = database.value("select token_hash from session");
        assertFalse(kept.contains(token));
        assertNull(sessions.person(kept));
    }

    @Test
    public void aSessionOfTwelveHoursAgoIsNobodys() throws Exception {
        String token = signedIn("ada");
        database.execute("update session set expires_at = now() - interval '1 second'");
        assertNull(sessions.person(token));
        sessions.end(Tokens.random());
        assertEquals(database.value("select count(*) from session"), "0");
    }

    @DataProvider
    public Object[][] nobodys() {
        return new Object[][] {{null}, {""}, {" "}, {"x".repeat(201)}, {"' or 1 = 1 --"}};
    }

    @Test(dataProvider = "nobodys")
    public void whatIsNoTokenIsNobodys(String token) {
        signedIn("ada");
        assertNull(sessions.person(token));
    }

    @Test
    public void allSessionsOfAPersonEndTogetherAndNobodyElses() {
        people.add("bo", "hash", false, false, "");
        String first = signedIn("ada");
        String second = signedIn("ada");
        String other = signedIn("bo");
        sessions.endAll(people.byName("ada").id());
        assertNull(sessions.person(first));
        assertNull(sessions.person(second));
        assertEquals(sessions.person(other).run(), List.of());
    }

    @Test
    public void aPersonWhoIsRemovedIsSignedOut() {
        String token = signedIn("ada");
        people.remove(people.byName("ada").id());
        assertNull(sessions.person(token));
    }

    @Test
    public void wrongPasswordsWaitLongerEachTimeUpToAQuarterOfAnHour() throws Exception {
        long[] waits = new long[18];
        for (int i = 0; i < waits.length; i++) {
            people.failed("ada", "10.0.0.9");
            waits[i] = Math.round(Double.parseDouble(
                    database.value("select extract(epoch from wait_until - now()) from sign_in_failure")));
        }
        assertEquals(waits[0] + " " + waits[1], "0 0");
        for (int i = 2; i < waits.length; i++) {
            long expected = Math.min(900, 1L << Math.min(i - 2, 12));
            assertTrue(Math.abs(waits[i] - expected) <= 1, "wait " + i + " is " + waits[i]);
        }
    }

    @Test
    public void wrongPasswordsFromOneAddressKeepNobodyElseOut() {
        people.failed("ada", "10.0.0.9");
        people.failed("ada", "10.0.0.9");
        people.failed("ada", "10.0.0.9");
        assertTrue(people.waitUntil("ada", "10.0.0.9").isAfter(Instant.now()));
        assertNull(people.waitUntil("ada", "10.0.0.8"));
        people.succeeded("ada", "10.0.0.9");
        assertNull(people.waitUntil("ada", "10.0.0.9"));
    }

    @DataProvider
    public Object[][] weak() {
        return new Object[][] {
            {null},
            {"eleven char"},
            {"a".repeat(257)},
            {"aaaaaaaabbbb"},
            {"abcabcabcabc"},
            {"abcdefghijklm"},
            {"123456789012"},
            {"ada ada ada ada"},
            {"P4ssword1234"},
        };
    }

    @Test(dataProvider = "weak")
    public void aPasswordThatIsTriedFirstIsRefused(String password) {
        expectThrows(Problem.class, () -> new Passwords().check(password, "ada"));
    }

    @Test
    public void aPasswordOfSeveralWordsIsTakenAndOnlyItsHashKept() {
        Passwords passwords = new Passwords();
        passwords.check("straw and twine 91", "ada");
        String hash = passwords.hash("straw and twine 91");
        assertFalse(hash.contains("straw"));
        assertTrue(passwords.matches("straw and twine 91", hash));
        assertFalse(passwords.matches("straw and twine 92", hash));
        assertFalse(passwords.matches("straw and twine 91", null));
    }

    @Test
    public void peopleAreSearchedByWhatTheyAreCalled() {
        people.add("a_da", "hash", false, true, "");
        assertEquals(people.count(wirekettle.server.web.Page.like("_")), 1);
        assertEquals(
                people.page(wirekettle.server.web.Page.like("DA"), 1, 1).get(0).name(), "ada");
        assertEquals(people.managers(), 1);
    }
}
