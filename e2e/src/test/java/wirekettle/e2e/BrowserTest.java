package wirekettle.e2e;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.openqa.selenium.By;
import org.openqa.selenium.WebElement;
import org.testng.ITestResult;
import org.testng.annotations.AfterClass;
import org.testng.annotations.AfterMethod;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.StartedProduct;

/** A started product of one's own with the demo's outside world and a browser; a failing test leaves a picture. */
abstract class BrowserTest {
    StartedProduct product;
    DemoWorld world;
    Browser browser;
    Path files;

    /** Starts everything; {@code seeded} fills the product with the demo's data. */
    void begin(String heap, boolean seeded) throws Exception {
        world = new DemoWorld(0);
        product = seeded
                ? Seeded.product(world, heap, settings())
                : new StartedProduct(Path.of(".."), List.of(heap), Map.of());
        files = Files.createTempDirectory("browser-test-");
        browser = new Browser(product.address(), files);
    }

    /** Returns the settings the product is started with. */
    Map<String, String> settings() {
        return Map.of();
    }

    /** Gives files of the test's folder to the file field that is shown. */
    void upload(String... names) {
        String all = String.join(
                "\n",
                List.of(names).stream().map(n -> files.resolve(n).toString()).toList());
        WebElement input = browser.driver().findElement(By.cssSelector("input[type=file]"));
        input.sendKeys(all);
    }

    /** Chooses one of a row of alternatives by its name; which counts rows with that name, from 1. */
    void side(String name, int which) {
        browser.click(By.xpath(
                "(//*[contains(@class,'ant-segmented-item-label') and @title='" + name + "'])[" + which + "]"));
    }

    @AfterMethod
    public void pictureOfAFailure(ITestResult result) throws Exception {
        if (!result.isSuccess()) {
            browser.picture(Path.of("target/failed-" + getClass().getSimpleName() + "-" + result.getName() + ".png"));
        }
    }

    @AfterClass(alwaysRun = true)
    public void end() throws Exception {
        if (browser != null) {
            browser.close();
        }
        if (product != null) {
            product.close();
        }
        world.close();
    }
}
