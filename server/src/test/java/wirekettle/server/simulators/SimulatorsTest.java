package wirekettle.server.simulators;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.util.List;
import java.util.function.UnaryOperator;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.server.Database;
import wirekettle.server.contracts.ContractMapper;
import wirekettle.server.contracts.ContractStore;
import wirekettle.server.contracts.Contracts;
import wirekettle.server.secrets.SecretsOf;
import wirekettle.server.web.Page;

/** Simulators that answer over HTTP, and what they keep of it in a real database. */
public class SimulatorsTest {
    private static final String SECRET = "straw and twine 91";

    private Database database;
    private ContractStore contracts;
    private Simulators simulators;
    private long contract;
    private long id;

    @BeforeMethod
    public void serve() throws Exception {
        database = Database.open();
        contracts = Contracts.over(database);
        contract = contracts.add(Contracts.register(UnaryOperator.identity()), "Institution Register", "pasted", "ada");
        simulators = server();
        id = simulators.mapper.add("Register", contract, "ada");
        simulators.serve(simulators.mapper.byId(id));
    }

    private Simulators server() throws Exception {
        Simulators made = new Simulators();
        made.mapper = database.mapper(SimulatorMapper.class);
        made.contracts = contracts;
        made.contractRows = database.mapper(ContractMapper.class);
        made.secrets = SecretsOf.one(database, Files.createTempDirectory("simulators"), "vanline password", SECRET);
        made.wantedPort = 0;
        made.started(null);
        return made;
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        simulators.stopping(null);
        database.close();
    }

    private HttpResponse<String> ask(String number) throws Exception {
        String body = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<LookUpInstitution xmlns='urn:halewick:register:1'><registrationNumber>" + number
                + "</registrationNumber><requestedBy>HALEWICK</requestedBy><purpose>loan</purpose>"
                + "</LookUpInstitution></s:Body></s:Envelope>";
        HttpRequest request = HttpRequest.newBuilder(URI.create(simulators.address(id)))
                .header("Content-Type", "text/xml")
                .POST(HttpRequest.BodyPublishers.ofString(body))
                .build();
        return HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.ofString());
    }

    private List<SimulatorMapper.Received> received(String search) {
        return simulators.mapper.requests(id, Page.like(search), 50, 0);
    }

    @Test
    public void aSimulatorAnswersAndKeepsWhatItWasAsked() throws Exception {
        HttpResponse<String> answer = ask("RG-10400");
        assertEquals(answer.statusCode(), 200);
        assertTrue(answer.body().contains("LookUpInstitutionResponse"), answer.body());
        SimulatorMapper.Received kept = received("").get(0);
        assertEquals(kept.operation(), "LookUpInstitution");
        assertEquals(kept.status(), (Integer) 200);
        assertEquals(simulators.mapper.byId(id).received(), (Long) 1L);
        assertEquals(received("rg-10400").size(), 1);
        assertEquals(received("RG-99999").size(), 0);
        assertEquals(simulators.mapper.requestCount(id, Page.like("rg-10400")), 1);
    }

    @Test
    public void whatIsKeptTellsNoSecret() throws Exception {
        ask(SECRET);
        String kept = received("").get(0).request();
        assertFalse(kept.contains(SECRET), kept);
    }

    @Test
    public void aNewRevisionOfTheContractCountsAtOnce() throws Exception {
        ask("RG-10400");
        contracts.revise(
                contract, 1, Contracts.register(text -> text.replace("insuredLimit", "insuredMost")), "pasted", "ada");
        assertTrue(ask("RG-10400").body().contains("insuredMost"));
    }

    @Test
    public void oneThatIsSwitchedOffAnswersNobody() throws Exception {
        assertEquals(simulators.mapper.change(id, 1, "Register", "[]", false), 1);
        simulators.serve(simulators.mapper.byId(id));
        assertEquals(ask("RG-10400").statusCode(), 404);
        assertEquals(simulators.mapper.change(id, 1, "Register", "[]", true), 0, "somebody changed it meanwhile");
        assertEquals(simulators.mapper.change(id, 2, "Register", "[]", true), 1);
        simulators.serve(simulators.mapper.byId(id));
        assertEquals(ask("RG-10400").statusCode(), 200);
        simulators.remove(id);
        assertEquals(ask("RG-10400").statusCode(), 404);
    }

    @Test
    public void onlyTheNewestRequestsStay() {
        for (int i = 0; i < 12; i++) {
            simulators.mapper.received(id, "LookUpInstitution", null, "<ask>" + i + "</ask>", 200, "<said/>", null);
        }
        simulators.mapper.forget(id, 5);
        assertEquals(received("").size(), 5);
        assertEquals(received("").get(0).request(), "<ask>11</ask>");
    }

    @Test
    public void aPortThatIsTakenIsLeftToWhoHasIt() throws Exception {
        Simulators second = new Simulators();
        second.mapper = simulators.mapper;
        second.wantedPort = URI.create(simulators.address(id)).getPort();
        second.started(null);
        assertTrue(URI.create(second.address(id)).getPort() != second.wantedPort);
        second.stopping(null);
    }

    @DataProvider
    public Object[][] addresses() {
        return new Object[][] {
            {"http://127.0.0.1:PORT/x", true},
            {"http://localhost:PORT/x", true},
            {"http://[::1]:PORT/x", true},
            {"http://127.0.0.1:1/x", false},
            {"http://192.0.2.7:PORT/x", false},
            {"http://", false},
            {"", false},
        };
    }

    @Test(dataProvider = "addresses")
    public void itsOwnAddressIsKnownByWhateverName(String address, boolean own) {
        String port = Integer.toString(URI.create(simulators.address(id)).getPort());
        assertEquals(simulators.answersAt(address.replace("PORT", port)), own);
    }
}
