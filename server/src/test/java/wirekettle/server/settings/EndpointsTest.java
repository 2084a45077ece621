package wirekettle.server.settings;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotSame;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.file.Files;
import java.util.List;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.soap.EndpointSettings.Login;
import wirekettle.server.Database;
import wirekettle.server.datasets.Datasets;
import wirekettle.server.secrets.SecretsOf;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** How endpoints are reached, and which secrets go where, over a real database. */
public class EndpointsTest {
    private static final String DESK = "https://desk.vanline.invalid/soap";
    private static final String SIMULATED = "http://127.0.0.1:8901/1";

    private Database database;
    private Endpoints endpoints;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        var folder = Files.createTempDirectory("endpoints");
        endpoints = EndpointsOf.a(database);
        endpoints.secrets =
                SecretsOf.one(database, folder, "vanline password", "straw and twine 91", "desk.vanline.invalid:443");
        endpoints.folders = Datasets.folders(Datasets.over(database, folder));
        endpoints.simulators = new SimulatorAddresses() {
            @Override
            public String address(long id) {
                return SIMULATED;
            }

            @Override
            public boolean answersAt(String address) {
                return address.startsWith("http://127.0.0.1:8901/");
            }
        };
        endpoints.settings.save("Vanline Desk", "Test", DESK);
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private static EndpointSettings login(Login.Kind kind, String tokenAddress) {
        Login login = new Login(kind, "ada", "vanline password", tokenAddress, null);
        return new EndpointSettings(null, null, null, null, null, login, null, null, false, false);
    }

    @Test
    public void anAddressThatIsMissingSaysWhereToSetIt() {
        assertEquals(endpoints.address("Vanline Desk", "Test"), DESK);
        for (String environment : List.of("Live", "Simulator")) {
            Problem problem = expectThrows(Problem.class, () -> endpoints.address("Vanline Desk", environment));
            assertTrue(problem.getMessage().contains("has no address in " + environment), problem.getMessage());
        }
        Problem unknown = expectThrows(Problem.class, () -> endpoints.address("No such", "Test"));
        assertTrue(unknown.getMessage().contains("set it in the call's Delivery"), unknown.getMessage());
        expectThrows(Problem.class, () -> endpoints.address((String) null, "Test"));
    }

    @Test
    public void aContractsOwnAddressIsTakenOnlyWhereNobodySetOne() {
        endpoints.addressUnlessSet("Vanline Desk", "Test", "http://elsewhere.invalid/");
        assertEquals(endpoints.address("Vanline Desk", "Test"), DESK);
        endpoints.addressUnlessSet("Institution Register", "Test", "http://register.invalid/");
        assertEquals(endpoints.address("Institution Register", "Test"), "http://register.invalid/");
    }

    @Test
    public void aRouteIsKeptUntilASecretOrASettingChanges() throws Exception {
        EndpointSettings basic = login(Login.Kind.BASIC, null);
        Endpoints.Route first = endpoints.route(DESK, basic);
        assertSame(endpoints.route(DESK, basic), first);
        assertNotSame(endpoints.route(DESK, EndpointSettings.PLAIN), first);
        SecretsOf.change(endpoints.secrets, "vanline password", "wax and paper 17");
        assertNotSame(endpoints.route(DESK, basic), first);
    }

    @DataProvider
    public Object[][] elsewhere() {
        return new Object[][] {
            {"https://other.invalid/soap", login(Login.Kind.BASIC, null)},
            {"http://desk.vanline.invalid/soap", login(Login.Kind.DIGEST, null)},
            {DESK, login(Login.Kind.OAUTH2, "https://tokens.invalid/token")},
        };
    }

    @Test(dataProvider = "elsewhere")
    public void aSecretGoesNowhereItMayNot(String address, EndpointSettings settings) {
        Problem saved = expectThrows(Problem.class, () -> endpoints.mustBeAllowed(address, settings));
        assertTrue(saved.getMessage().contains("may not be sent to"), saved.getMessage());
        if (settings.login().kind() != Login.Kind.OAUTH2) {
            expectThrows(Problem.class, () -> endpoints.route(address, settings));
        }
    }

    @Test
    public void aSecretThatMayBeSentIs() {
        endpoints.mustBeAllowed(DESK, login(Login.Kind.BASIC, null));
        endpoints.mustBeAllowed("", login(Login.Kind.BASIC, null));
    }

    @Test
    public void aSimulatorGetsNoSecret() {
        EndpointSettings basic = login(Login.Kind.BASIC, null);
        endpoints.mustBeAllowed(SIMULATED, basic);
        Endpoints.Route route = endpoints.route(SIMULATED, basic);
        assertTrue(!route.reach().secrets().text("vanline password").contains("straw"));
    }

    @Test
    public void whatUsesASecretIsNamed() {
        endpoints.settings.settings("Vanline Desk", "Test", Json.write(login(Login.Kind.BASIC, null)));
        assertEquals(endpoints.uses("vanline password"), List.of("Vanline Desk in Test"));
        assertEquals(endpoints.uses("another"), List.of());
        assertEquals(endpoints.address("Vanline Desk", "Test"), DESK, "the address stayed");
    }
}
