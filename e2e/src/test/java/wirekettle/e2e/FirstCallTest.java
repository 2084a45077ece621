package wirekettle.e2e;

import static org.testng.Assert.assertTrue;

import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.testng.annotations.Test;

/** From an empty start to one good call, by keyboard alone. */
public class FirstCallTest extends BrowserTest {
    /** Moves on by Tab until what has the focus shows a text. */
    private void tabTo(String text) {
        for (int i = 0; i < 40; i++) {
            WebElement on = browser.driver().switchTo().activeElement();
            if (on.getText().contains(text) && !on.getTagName().equals("body")) {
                return;
            }
            browser.keys(Keys.TAB);
        }
        throw new AssertionError("no Tab leads to " + text);
    }

    private boolean onChoice() {
        return "radio".equals(browser.driver().switchTo().activeElement().getAttribute("type"));
    }

    @Test
    public void aServiceNobodyKnewIsCalledWithoutTheMouse() throws Exception {
        begin("-Xmx256m", false);
        browser.signIn("ada", product.password());
        browser.seeText("Start with a contract");
        tabTo("Import a contract");
        browser.keys(Keys.ENTER);
        browser.seeText("Drop a WSDL");
        // the ways are a group of choices: arrows move among them
        for (int i = 0; i < 20 && !onChoice(); i++) {
            browser.keys(Keys.TAB);
        }
        browser.keys(Keys.ARROW_RIGHT);
        WebElement address = browser.see("input[placeholder^='http://…']");
        address.sendKeys(world.address("register") + "?wsdl", Keys.ENTER);
        browser.seeText("is not among the allowed hosts");
        tabTo("Allow 127.0.0.1");
        browser.keys(Keys.ENTER);
        browser.seeText("Open the contract");
        tabTo("Open the contract");
        browser.keys(Keys.ENTER);
        browser.seeText("LookUpInstitution");
        browser.seeText("registrationNumber>");
        browser.keys("t");
        browser.until("the first field waits to be typed into", () -> "registrationNumber"
                .equals(browser.driver().switchTo().activeElement().getAttribute("aria-label")));
        browser.keys("RG-10696", Keys.chord(Keys.CONTROL, Keys.ENTER));
        browser.seeText("HTTP 200");
        browser.seeText("Lünbrück Gallery of Maps");
        assertTrue(
                world.register().invalidRequests().isEmpty(),
                world.register().invalidRequests().toString());
    }
}
