package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.zip.ZipInputStream;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.soap.security.Certificates;
import wirekettle.core.soap.security.KeyMaterial;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.ProductClient;
import wirekettle.demo.SecretSearch;

/** Reaching services by hand: certificates, logins, secrets, simulators, operations over plain HTTP. */
public class ReachTest extends BrowserTest {
    private ProductClient client;

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", true);
        client = product.client();
        browser.signIn("ada", product.password());
    }

    @BeforeMethod
    public void inTest() {
        browser.script("localStorage.setItem('environment', 'Test')");
    }

    private void endpoint(String name) {
        browser.open("/settings?tab=endpoints");
        browser.seeText(name);
        browser.click(By.linkText(name));
        browser.seeText("Test this endpoint");
    }

    private void type(String label, String text) {
        browser.see("[aria-label='" + label + "']").sendKeys(Keys.chord(Keys.CONTROL, "a"), text);
    }

    private void bench(long contract, String port, String operation, String field, String value) {
        browser.open("/bench/" + contract + "?port=" + port + "&operation=" + operation);
        browser.until("the request is ready", () -> browser.text().contains("ready"));
        type(field, value);
    }

    private long contract(String name) throws IOException {
        for (JsonNode each : client.get("/api/contracts").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return each.get("id").asLong();
            }
        }
        throw new IOException("no contract " + name);
    }

    @Test
    public void aServersCertificateIsTrustedAfterItsFingerprint() {
        endpoint("Vanline Desk over TLS");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("is not trusted");
        browser.seeText("Certificate of Vanline Desk");
        assertTrue(browser.text().contains("SHA-256 fingerprint"));
        browser.press("Trust this certificate");
        browser.until("it works", () -> !browser.driver()
                .findElements(By.cssSelector("[data-works=true]"))
                .isEmpty());
        assertTrue(browser.text().contains("a service of SOAP answers"), browser.text());
        // and a call goes through
        bench(2, "VanlinePort", "TrackTransport", "reference", "VD-700100");
        browser.choose("Endpoint", "Vanline Desk over TLS");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        browser.until("the probe told its times", () -> {
            browser.driver().navigate().refresh();
            browser.seeText("today");
            browser.click(By.xpath("//*[@role='listitem']//span[starts-with(.,'today')]"));
            browser.seeText("HTTP 200");
            return browser.text().contains("TLS ") && browser.text().contains("first byte");
        });
    }

    @Test
    public void aWrongPasswordIsToldAndTheRightOneIsHiddenInWhatIsKept() throws Exception {
        bench(2, "VanlinePort", "TrackTransport", "reference", "VD-700100");
        browser.choose("Endpoint", "Vanline Desk with a name");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        side("Sent", 1);
        browser.seeText("wsse:UsernameToken");
        assertTrue(browser.text().contains("•••••</wsse:Password>"), "the digest is hidden");
        client.put("/api/secrets/vanline%20password", Map.of("value", "something else"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("does not accept the user name or the password");
        browser.click(By.linkText("Look at the endpoint"));
        browser.seeText("Test this endpoint");
        browser.press("Test this endpoint");
        browser.seeText("does not accept the user name or the password");
        client.put("/api/secrets/vanline%20password", Map.of("value", DemoLogins.TOKEN_PASSWORD));
        browser.press("Test this endpoint");
        browser.until("it works again", () -> !browser.driver()
                .findElements(By.cssSelector("[data-works=true]"))
                .isEmpty());
    }

    @Test
    public void aSecretIsWrittenUsedAndNeverShown() throws Exception {
        endpoint("Institution Register");
        type("Address", world.ports().address("register-basic"));
        side("basic", 1);
        type("Login user", DemoLogins.USER);
        browser.choose("Login secret", "+ New secret …");
        type("Secret name", "basic password");
        browser.see("input[aria-label='Secret value']").sendKeys(DemoLogins.PASSWORD);
        browser.press("Write");
        browser.until("it is chosen", () -> browser.text().contains("basic password"));
        browser.press("Save for Test");
        browser.seeText("Saved for Test");
        bench(1, "RegisterPort", "LookUpInstitution", "registrationNumber", "RG-10696");
        browser.seeText("basic login");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Lünbrück Gallery of Maps");
        side("Sent", 1);
        browser.seeText("Authorization");
        assertTrue(browser.text().contains("Basic •••••"), browser.text());
        assertFalse(client.get("/api/secrets").toString().contains("value"));
        assertEquals(
                client.send("DELETE", "/api/secrets/basic%20password", null, Map.of())
                        .status(),
                409);
        assertEquals(
                client.send("PUT", "/api/secrets/short", Map.of("value", "abc"), Map.of())
                        .status(),
                400);
        String curl = (String)
                browser.script(
                        "window.copied = ''; navigator.clipboard.writeText = t => { window.copied = t; return Promise.resolve(); };"
                                + " [...document.querySelectorAll('button')].find(b => b.innerText === 'Copy as curl').click(); return window.copied");
        assertTrue(curl.contains("--basic") && curl.contains("\"$BASIC_PASSWORD\""), curl);
        // a bundle names the secret and does not hold it; a run with it works and keeps nothing of it
        byte[] bundle = client.send("GET", "/api/flows/1/bundle?environment=Test", null, Map.of())
                .body();
        var endpoints = FlowBundle.read(Files.write(Files.createTempFile("bundle", ".zip"), bundle))
                .endpoints();
        assertTrue(endpoints.get("Institution Register").settings().secrets().contains("basic password"));
        assertNull(SecretSearch.in(unzipped(bundle)));
        long run = client.post("/api/flows/1/runs", Map.of("environment", "Test", "limit", 5))
                .get("id")
                .asLong();
        Until.until("the run ends", () -> !state(run).equals("running"));
        assertEquals(client.get("/api/runs/" + run).get("run").get("done").asInt(), 5);
        client.post("/api/simulator-lessons", Map.of("run", run, "record", 2));
        client.put(
                "/api/endpoints",
                Map.of("name", "Institution Register", "addresses", Map.of("Test", world.address("register"))));
    }

    private String state(long run) {
        try {
            return client.get("/api/runs/" + run).get("run").get("state").asText();
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    private static String unzipped(byte[] zip) throws IOException {
        StringBuilder all = new StringBuilder();
        try (ZipInputStream in = new ZipInputStream(new ByteArrayInputStream(zip))) {
            while (in.getNextEntry() != null) {
                all.append(new String(in.readAllBytes(), StandardCharsets.UTF_8));
            }
        }
        return all.toString();
    }

    @Test
    public void aSimulatorIsMadeSteeredAndCalled() {
        browser.open("/contracts/1?port=RegisterPort&operation=LookUpInstitution");
        browser.press("Simulate");
        browser.seeText("a valid example of the reply");
        browser.keys("a");
        browser.seeText("When the request has");
        browser.press("Compare a field");
        browser.choose("Field 1 compared", "LookUpInstitution / registrationNumber");
        type("Value 1 compared", "RG-1");
        browser.press("Set a field");
        browser.choose("Field 1 answered", "LookUpInstitutionResponse / name");
        type("Value 1 answered", "Museum of Straps");
        browser.press("Done");
        browser.until(
                "the rule stands there",
                () -> browser.text().contains("registrationNumber = RG-1")
                        && browser.text().contains("name: Museum of Straps"));
        browser.choose("Environment", "◇ Simulator");
        browser.click(By.linkText("Try it on the bench"));
        browser.until("the request is ready", () -> browser.text().contains("ready"));
        type("registrationNumber", "RG-1");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Museum of Straps");
        type("registrationNumber", "RG-2");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.until("an example answers", () -> !browser.text().contains("Museum of Straps"));
        browser.open("/settings?tab=simulators");
        browser.seeText("Institution Register");
        browser.click(By.linkText("Institution Register"));
        browser.seeText("rule 1 answered");
        browser.seeText("an example answered");
    }

    @Test(dependsOnMethods = "aSimulatorIsMadeSteeredAndCalled")
    public void theSimulatorIsTaughtAndAReplyBecomesADataset() throws Exception {
        bench(1, "RegisterPort", "LookUpInstitution", "registrationNumber", "RG-10696");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Lünbrück Gallery of Maps");
        browser.press("Keep");
        browser.click(By.xpath("//li[contains(.,'Teach the simulator')]"));
        browser.press("See its rules");
        browser.seeText("registrationNumber = RG-10696");
        bench(1, "RegisterPort", "LookUpInstitution", "registrationNumber", "RG-10696");
        browser.choose("Environment", "◇ Simulator");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("Lünbrück Gallery of Maps");
        browser.press("Keep");
        browser.click(By.xpath("//li[contains(.,'as a dataset')]"));
        type("Dataset name", "one institution");
        browser.keys(Keys.ENTER);
        browser.seeText("registration_number");
        browser.seeText("Lünbrück Gallery of Maps");
        long call = client.get("/api/bench/calls?contract=1&port=RegisterPort&operation=LookUpInstitution")
                .get("items")
                .get(0)
                .get("id")
                .asLong();
        client.post("/api/flows/1/kept-replies", Map.of("call", call, "record", 3));
    }

    @Test
    public void aRateIsFoundOverPlainHttpAsSheetAndAsText() throws Exception {
        bench(contract("Rates"), "Http", "findRate", "from", "NOR");
        type("to", "ISL");
        type("kilograms", "10");
        side("Text", 1);
        WebElement text = browser.see("textarea");
        browser.until("the text follows", () -> text.getAttribute("value").contains("GET /rates/NOR/ISL?kilograms=10"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.until("the rate is there", () -> browser.text().contains("\"total\" : 41"));
        text.sendKeys(Keys.chord(Keys.CONTROL, "a"), "GET /rates/VEL/NOR?kilograms=2&option=night");
        side("Sheet", 1);
        browser.until("the sheet follows", () -> browser.see("input[aria-label=from]")
                .getAttribute("value")
                .equals("VEL"));
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.until("the other rate is there", () -> browser.text().contains("\"total\" : 4.7"));
        side("Sheet", 2);
        browser.until(
                "the reply is a sheet",
                () -> browser.driver().findElements(By.cssSelector("[data-reply] [role=treeitem]")).stream()
                        .anyMatch(row -> row.getText().contains("perKilogram")
                                && row.getText().endsWith("2.35")));
    }

    @Test
    public void anOperationIsDescribedByHandAndCalled() {
        browser.open("/contracts?import=1");
        browser.seeText("By hand");
        side("By hand", 1);
        type("Service name", "Zones by hand");
        type("Service address", world.address("rates"));
        type("Operation name", "rate");
        type("Path", "/rates/{from}/{to}");
        type("Query parameters", "kilograms*");
        type("Reply sample", "{\"perKilogram\": 2.5, \"currency\": \"EUR\", \"notes\": [\"a\"]}");
        browser.press("Make the contract");
        browser.press("Open the contract");
        browser.seeText("kilograms");
        browser.press("Try");
        browser.until("the request is ready", () -> browser.text().contains("ready"));
        type("from", "NOR");
        type("to", "VEL");
        type("kilograms", "4");
        browser.keys(Keys.chord(Keys.CONTROL, Keys.ENTER));
        // nobody set an endpoint: it is tried where the description says it is
        browser.until("the rate is there", () -> browser.text().contains("\"total\" : 9.4"));
    }

    @Test
    public void aPhotographGoesOutAndALabelIsDownloaded() throws Exception {
        long id = 0;
        for (JsonNode endpoint : client.get("/api/endpoints")) {
            id = endpoint.get("name").asText().equals("Vanline Desk")
                    ? endpoint.get("id").asLong()
                    : id;
        }
        client.put(
                "/api/endpoints/" + id + "/environments/Test",
                Map.of("address", world.address("vanline"), "settings", Map.of("mtom", true)));
        byte[] photograph = new byte[5_000];
        String text = "<s:Envelope xmlns:s='http://schemas.xmlsoap.org/soap/envelope/'><s:Body>"
                + "<v:LabelCrate xmlns:v='urn:halewick:vanline:2'><v:reference>VD-1</v:reference>"
                + "<v:crateNumber>HC-1</v:crateNumber><v:photograph>"
                + Base64.getEncoder().encodeToString(photograph)
                + "</v:photograph></v:LabelCrate></s:Body></s:Envelope>";
        JsonNode call = client.post(
                "/api/bench/calls",
                Map.of(
                        "contract", contract("Vanline Desk"),
                        "port", "VanlinePort",
                        "operation", "LabelCrate",
                        "endpoint", "Vanline Desk",
                        "environment", "Test",
                        "text", text,
                        "confirmed", true));
        Until.until("the call ends", () -> {
            try {
                return !client.get("/api/bench/calls/" + call.get("id"))
                        .get("state")
                        .asText()
                        .equals("running");
            } catch (IOException e) {
                throw new AssertionError(e);
            }
        });
        JsonNode ended = client.get("/api/bench/calls/" + call.get("id"));
        assertEquals(ended.get("attachments").size(), 1, ended.toString());
        assertTrue(ended.get("values").toString().contains("5000"), "the service counted the photograph's bytes");
        browser.open("/bench/" + contract("Vanline Desk") + "?port=VanlinePort&operation=LabelCrate");
        browser.seeText("today");
        browser.click(By.xpath("//*[@role='listitem']//span[starts-with(.,'today')]"));
        browser.seeText("Beside the envelope");
        browser.click(By.cssSelector("a[href*='/attachments/0']"));
        // the browser makes the file before it has what is in it
        Until.until("the label is there", () -> {
            try (var all = Files.list(files)) {
                return all.anyMatch(ReachTest::label);
            } catch (IOException e) {
                throw new AssertionError(e);
            }
        });
    }

    @Test
    public void aKeyNearItsEndWaitsOnTheDesk() throws Exception {
        client.upload(
                "/api/secrets/old%20key/key",
                "file",
                Map.of("expired.p12", DemoLogins.keyFile("expired.p12")),
                Map.of("password", DemoLogins.KEY_PASSWORD));
        String pem = Certificates.pem(KeyMaterial.read(DemoLogins.keyFile("expired.p12"), DemoLogins.KEY_PASSWORD)
                .certificate());
        long id = client.put("/api/endpoints", Map.of("name", "Old trust"))
                .get("id")
                .asLong();
        client.put(
                "/api/endpoints/" + id + "/environments/Live",
                Map.of("address", "", "settings", Map.of("tls", Map.of("trusted", List.of(pem)))));
        browser.open("/");
        browser.seeText("old key");
        browser.seeText("ended 2025-01-01");
        browser.seeText("certificate of Old trust in Live");
        ProductClient.Answer wrong = client.send("PUT", "/api/secrets/x/y", Map.of(), Map.of());
        assertEquals(wrong.status(), 404);
    }

    private static boolean label(Path file) {
        try {
            return new String(Files.readAllBytes(file), StandardCharsets.UTF_8).startsWith("<svg");
        } catch (IOException e) {
            // it is moved to its name at this moment
            return false;
        }
    }
}
