package wirekettle.e2e;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.demo.ProductClient;

/** Who manages gives rights and says where secrets may go; who only looks is not offered what they may not do. */
public class SettingsPageTest extends BrowserTest {
    private static final String NEW_PASSWORD = "crates-go-by-van-7731";

    private ProductClient client;

    @BeforeClass
    public void start() throws Exception {
        begin("-Xmx256m", true);
        client = product.client();
        browser.signIn("ada", product.password());
    }

    private JsonNode named(String path, String name) {
        try {
            JsonNode all = client.get(path);
            for (JsonNode each : all.isArray() ? all : all.get("items")) {
                if (each.get("name").asText().equals(name)) {
                    return each;
                }
            }
            return null;
        } catch (IOException e) {
            throw new AssertionError(e);
        }
    }

    @Test
    public void aPersonIsAddedAndGivenARightAndIsOfferedNoMore() throws Exception {
        browser.open("/settings?tab=people");
        browser.press("Add a person");
        browser.see("[aria-label='Name']").sendKeys("bram");
        browser.see("[aria-label='First password']").sendKeys("short");
        browser.press("Add");
        browser.seeText("A password has 12 to 256 characters");
        browser.see("[aria-label='First password']").sendKeys(Keys.chord(Keys.CONTROL, "a"), NEW_PASSWORD);
        browser.click(By.xpath("//*[@aria-label='rights of the new person']//label[contains(., 'build')]"));
        browser.click(By.xpath("//*[@aria-label='rights of the new person']//label[contains(., 'run Simulator')]"));
        browser.press("Add");
        browser.see("[aria-label='rights of bram']");
        browser.click(By.xpath("//*[@aria-label='rights of bram']//label[contains(., 'run Live')]"));
        browser.until(
                "Live is given",
                () -> named("/api/people", "bram").get("run").toString().contains("Live"));
        JsonNode bram = named("/api/people", "bram");
        assertFalse(bram.get("build").asBoolean());
        assertFalse(bram.get("manage").asBoolean());
        assertEquals(bram.get("run").size(), 2, bram.toString());
        try (Browser other = new Browser(product.address(), Files.createTempDirectory("bram-"))) {
            other.signIn("bram", NEW_PASSWORD);
            other.open("/settings?tab=secrets");
            other.seeText("register password");
            assertFalse(other.text().contains("New secret"), other.text());
            assertFalse(other.text().contains("People"), other.text());
        }
    }

    @Test
    public void aSecretIsAllowedAtAPlaceFromTheListAndFromWhereItIsMissed() throws Exception {
        client.put(
                "/api/secrets/register%20password/destinations",
                Map.of("destinations", List.of("register.invalid:80")));
        browser.open("/settings?tab=secrets");
        browser.click(By.xpath("//button[contains(., 'register.invalid:80')]"));
        browser.see("[aria-label='Sent to']").sendKeys("https://vanline.invalid/desk", Keys.ENTER);
        browser.press("Save");
        browser.seeText("vanline.invalid:443");

        URI address = URI.create(named("/api/endpoints", "Register with a login")
                .at("/environments/Test/address")
                .asText());
        String place = address.getHost() + ":" + address.getPort();
        browser.open("/endpoints/"
                + named("/api/endpoints", "Register with a login").get("id").asLong());
        browser.press("Test this endpoint");
        browser.seeText("Send “register password” to " + place + "?");
        browser.press("Allow and go on");
        browser.until("the place is allowed", () -> named("/api/secrets", "register password")
                .get("destinations")
                .toString()
                .contains(place));
        browser.seeText("HTTP");
        assertEquals(
                named("/api/secrets", "register password").get("destinations").size(), 3);
    }

    /** The message that signs on is filled like any other: a text typed into one field, a secret by name into another. */
    @Test
    public void aSessionsSignOnIsFilledAsASheet() throws Exception {
        String name = "Vanline Desk in a session";
        long id = named("/api/endpoints", name).get("id").asLong();
        browser.open("/endpoints/" + id);
        browser.choose("Contract of the sign-on", "Vanline Desk");
        browser.choose("Operation that signs on", "SignOn");
        browser.seeText("What SignOn is filled with");
        browser.until("it says what it said before", () -> browser.see(".ant-modal [aria-label='desk']")
                .getAttribute("value")
                .equals("HC07"));
        browser.see(".ant-modal [aria-label='desk']").sendKeys(Keys.chord(Keys.CONTROL, "a"), "HC09");
        browser.choose("secret for password", "vanline password");
        browser.until("the secret stands there by its name", () -> browser.see(".ant-modal [aria-label='password']")
                .getAttribute("value")
                .equals("{secret:vanline password}"));
        browser.press("Use it");
        browser.until("the message is taken", () -> browser.see("[aria-label='Sign-on message']")
                .getAttribute("value")
                .contains("HC09"));
        browser.press("Save for Test");
        browser.seeText("Saved for Test");
        JsonNode session = named("/api/endpoints", name).at("/environments/Test/settings/session");
        String message = session.get("signOn").asText();
        assertTrue(message.matches("(?s)<(\\w+:)?SignOn .*HC09.*\\{secret:vanline password}.*"), message);
        assertEquals(session.get("operation").asText(), "SignOn");
        assertEquals(session.get("action").asText(), "urn:halewick:vanline:SignOn");
        // what it fills is what is sent
        browser.press("Test this endpoint");
        browser.seeText("HTTP");
    }
}
