package wirekettle.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.function.Function;
import org.openqa.selenium.By;
import org.openqa.selenium.ElementNotInteractableException;
import org.openqa.selenium.JavascriptExecutor;
import org.openqa.selenium.Keys;
import org.openqa.selenium.OutputType;
import org.openqa.selenium.StaleElementReferenceException;
import org.openqa.selenium.WebDriver;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.interactions.Actions;
import org.openqa.selenium.support.ui.FluentWait;
import org.openqa.selenium.support.ui.WebDriverWait;

/** Headless Chromium on one product, with waits instead of pauses. */
public final class Browser implements AutoCloseable {
    /** How wide a page is, in pixels, unless a test says otherwise. */
    public static final int WIDTH = 1280;

    // a path that compares every element with its children takes the page's thread longer than what it waits for
    private static final String INNERMOST = "const found = [];"
            + "const has = e => e.textContent.replace(/[ \\t\\r\\n]+/g, ' ').trim().includes(arguments[0]);"
            + "const walk = e => { const inside = [...e.children].filter(has); inside.forEach(walk);"
            + " if (inside.length === 0 && e.tagName !== 'SCRIPT' && e.tagName !== 'STYLE') found.push(e); };"
            + "if (has(document.documentElement)) walk(document.documentElement); return found;";

    private final String address;
    private final ChromeDriver driver;

    /** Opens a browser; downloads go to {@code downloads}. */
    public Browser(String address, Path downloads) {
        this.address = address;
        ChromeOptions options = new ChromeOptions();
        options.setBinary("/usr/bin/chromium");
        options.addArguments(
                "--headless=new",
                "--no-sandbox",
                "--disable-gpu",
                "--disable-quic",
                "--no-first-run",
                "--disable-background-networking",
                "--disable-component-update",
                "--disable-sync",
                "--disable-dev-shm-usage",
                "--force-prefers-reduced-motion",
                "--window-size=1280,800");
        options.setExperimentalOption(
                "prefs",
                java.util.Map.of(
                        "download.default_directory", downloads.toAbsolutePath().toString()));
        driver = new ChromeDriver(
                new ChromeDriverService.Builder()
                        .usingDriverExecutable(new java.io.File("/usr/bin/chromedriver"))
                        .build(),
                options);
        // headless windows count their frame: make the page itself 1280×800
        wide(WIDTH);
    }

    /** Makes the page so many pixels wide; what is narrower than a tablet is a telephone. */
    public void wide(int pixels) {
        driver.executeCdpCommand(
                "Emulation.setDeviceMetricsOverride",
                java.util.Map.of("width", pixels, "height", 800, "deviceScaleFactor", 1, "mobile", pixels < 768));
    }

    private FluentWait<WebDriver> waiting(String what) {
        return new WebDriverWait(driver, Duration.ofSeconds(30), Duration.ofMillis(30))
                .withMessage(() -> "waiting " + what + " on " + driver.getCurrentUrl());
    }

    /** Opens a path of the product. */
    public void open(String path) {
        driver.get(address + path);
    }

    /** Signs in on the sign-in screen. */
    public void signIn(String name, String password) {
        open("/");
        see("input[name=name]").sendKeys(name);
        see("input[name=password]").sendKeys(password + Keys.ENTER);
        see("header nav");
    }

    /** Waits until an element of a CSS selector is shown, and returns it. */
    public WebElement see(String css) {
        return shown(By.cssSelector(css), css);
    }

    /** Waits until an element that contains a text is shown, and returns the innermost. */
    public WebElement seeText(String text) {
        return shown(d -> innermost(text), "text " + text);
    }

    /** Returns the innermost elements that contain a text, white space put together. */
    private List<WebElement> innermost(String text) {
        List<?> found = (List<?>) script(INNERMOST, text);
        return found.stream().map(WebElement.class::cast).toList();
    }

    private WebElement shown(By by, String what) {
        return shown(d -> d.findElements(by), what);
    }

    private WebElement shown(Function<WebDriver, List<WebElement>> find, String what) {
        return waiting("for " + what).until(d -> {
            try {
                return find.apply(d).stream()
                        .filter(WebElement::isDisplayed)
                        .findFirst()
                        .orElse(null);
            } catch (StaleElementReferenceException e) {
                return null;
            }
        });
    }

    /** Waits for a condition. */
    public void until(String what, java.util.function.BooleanSupplier condition) {
        waiting("until " + what).until(d -> {
            try {
                return condition.getAsBoolean();
            } catch (StaleElementReferenceException e) {
                return false;
            }
        });
    }

    /** Waits for the row of a fill sheet whose target ends with a name, and returns it. */
    public WebElement row(String field) {
        return waiting("for row " + field).until(d -> {
            try {
                return d.findElements(By.cssSelector("[role=row][data-target]")).stream()
                        .filter(r -> r.getAttribute("data-target").endsWith(field))
                        .findFirst()
                        .orElse(null);
            } catch (StaleElementReferenceException e) {
                return null;
            }
        });
    }

    /** Waits until a row of a fill sheet shows a text. */
    public void rowShows(String field, String text) {
        until(field + " shows " + text, () -> row(field).getText().contains(text));
    }

    /** Clicks an element found by CSS. */
    public void click(String css) {
        until("clicked " + css, () -> clicked(see(css)));
    }

    /** Moves the mouse over an element, for what is shown there then. */
    public void pointAt(String css) {
        new Actions(driver).moveToElement(see(css)).perform();
    }

    /** Opens the list of a select inside an element, clicking again where a first click came too early. */
    public void openList(java.util.function.Supplier<WebElement> around) {
        By list = By.cssSelector(".ant-select-dropdown:not(.ant-select-dropdown-hidden)");
        until(
                "the list is open",
                () -> driver.findElements(list).stream().anyMatch(WebElement::isDisplayed)
                        || clicked(around.get().findElement(By.cssSelector(".ant-select"))) && false);
    }

    /** Clicks the innermost element that has a text. */
    public void clickText(String text) {
        until("clicked " + text, () -> clicked(seeText(text)));
    }

    /** Clicks an element once it is shown and stands still. */
    public void click(By by) {
        until("clicked " + by, () -> clicked(shown(by, by.toString())));
    }

    /** Clicks the button with that text; of several the one on top. */
    public void press(String text) {
        By by = By.xpath("//button[contains(normalize-space(.), \"" + text + "\") and not(@disabled)]");
        until("pressed " + text, () -> {
            List<WebElement> all = driver.findElements(by);
            for (int i = all.size() - 1; i >= 0; i--) {
                if (all.get(i).isDisplayed() && clicked(all.get(i))) {
                    return true;
                }
            }
            return false;
        });
    }

    /** A click on what is still moving can go past it: it waits, and is tried again. */
    private boolean clicked(WebElement element) {
        try {
            if (!still()) {
                return false;
            }
            element.click();
            return true;
        } catch (org.openqa.selenium.WebDriverException e) {
            return false;
        }
    }

    /** Presses keys, wherever the focus is; what had it may be closing, then whatever gets it next. */
    public void keys(CharSequence... keys) {
        waiting("for something that takes keys")
                .ignoring(StaleElementReferenceException.class, ElementNotInteractableException.class)
                .until(d -> {
                    d.switchTo().activeElement().sendKeys(keys);
                    return true;
                });
    }

    /** Leaves a field by Escape, so that keys are the page's again. */
    public void leaveField() {
        keys(Keys.ESCAPE);
        until(
                "no field has the focus",
                () -> Boolean.TRUE.equals(script("return document.activeElement === document.body")));
    }

    /** Picks an option by text in the open list of a select found by its label. */
    public void choose(String label, String option) {
        WebElement input = waiting("for the select " + label)
                .until(d -> d.findElement(By.cssSelector("[aria-label='" + label + "']")));
        until(
                "opened " + label,
                () -> clicked(
                        input.findElement(By.xpath("./ancestor-or-self::div[contains(@class,'ant-select')][1]"))));
        By by = By.xpath(
                "//div[contains(@class,'ant-select-dropdown') and not(contains(@class,'ant-select-dropdown-hidden'))]"
                        + "//div[contains(@class,'ant-select-item-option-content') and contains(., \"" + option
                        + "\")]");
        until("chose " + option, () -> clicked(shown(by, "option " + option)));
    }

    /** Returns the text of the whole page. */
    public String text() {
        return driver.findElement(By.tagName("body")).getText();
    }

    /** Returns the path and query shown. */
    public String location() {
        return driver.getCurrentUrl().substring(address.length());
    }

    /** Returns the driver for what this class has no word for. */
    public ChromeDriver driver() {
        return driver;
    }

    /** Runs a script in the page. */
    public Object script(String script, Object... arguments) {
        return ((JavascriptExecutor) driver).executeScript(script, arguments);
    }

    /** Waits until nothing on the page moves any more. */
    public void settle() {
        until("nothing moves", this::still);
    }

    private boolean still() {
        return Boolean.TRUE.equals(script("return document.getAnimations().every("
                + "a => a.playState !== 'running' || a.effect.getTiming().iterations === Infinity)"));
    }

    /** Saves a picture of the page. */
    public void picture(Path file) throws IOException {
        Files.createDirectories(file.toAbsolutePath().getParent());
        Files.write(file, driver.getScreenshotAs(OutputType.BYTES));
    }

    @Override
    public void close() {
        driver.quit();
    }
}
