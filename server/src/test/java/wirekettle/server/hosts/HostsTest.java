package wirekettle.server.hosts;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.net.URI;
import java.util.List;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.connect.HostRefused;
import wirekettle.server.Database;

public class HostsTest {
    private Database database;
    private Hosts hosts;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        hosts = new Hosts();
        hosts.mapper = database.mapper(HostMapper.class);
        hosts.own = List.of((host, port) -> host.equals("127.0.0.1") && port == 8901);
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    @Test
    public void onlyWhatIsAllowedIsReached() throws Exception {
        hosts.mapper.allow("register.halewick.invalid:8443", "ada");
        hosts.mapper.allow("*.vanline.invalid", "ada");
        hosts.mapper.allow("*.vanline.invalid", "bo");
        hosts.check(URI.create("https://register.halewick.invalid:8443/soap"));
        hosts.check(URI.create("http://desk.vanline.invalid/soap"));
        for (String other : List.of(
                "https://register.halewick.invalid/soap",
                "http://vanline.invalid/soap",
                "http://vanline.invalid.example/",
                "ftp://desk.vanline.invalid/soap")) {
            expectThrows(HostRefused.class, () -> hosts.check(URI.create(other)));
        }
        assertEquals(hosts.mapper.hosts().get(0).allowedBy(), "ada");
    }

    @Test
    public void whatTheProductAnswersItselfIsAlwaysReached() {
        assertTrue(hosts.allows("127.0.0.1", 8901));
        assertFalse(hosts.allows("127.0.0.1", 8902));
    }

    @Test
    public void aChangeCountsAtOnce() {
        assertFalse(hosts.allows("desk.vanline.invalid", 80));
        hosts.mapper.allow("desk.vanline.invalid", "ada");
        hosts.changed();
        assertTrue(hosts.allows("desk.vanline.invalid", 80));
        hosts.mapper.disallow("desk.vanline.invalid");
        hosts.changed();
        assertFalse(hosts.allows("desk.vanline.invalid", 80));
    }

    @Test
    public void nothingIsAllowedWhileNobodyKnowsWhatIs() throws Exception {
        database.away();
        expectThrows(RuntimeException.class, () -> hosts.allows("desk.vanline.invalid", 80));
        database.back();
        assertFalse(hosts.allows("desk.vanline.invalid", 80));
    }
}
