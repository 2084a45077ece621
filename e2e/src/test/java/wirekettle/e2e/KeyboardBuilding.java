package wirekettle.e2e;

import static org.testng.Assert.assertEquals;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;
import wirekettle.demo.ProductClient;

/** Flows built from nothing by keyboard alone. */
abstract class KeyboardBuilding extends FlowEditing {
    /** Begins a flow of a dataset and an operation. */
    void build(String name, String dataset, String contract, String operation) {
        browser.open("/flows");
        browser.seeText("Check and book");
        tabTo("Build a flow");
        browser.keys(Keys.ENTER);
        browser.seeText("Read records from");
        pick("Dataset", dataset);
        pick("Contract", contract);
        pick("Operation", operation);
        tabTo(operation + " for " + dataset);
        browser.keys(name, Keys.ENTER);
        browser.seeText(operation + " request");
        browser.seeText("50 rows");
    }

    /** Goes from field to field by Tab until the one of a name has the focus. */
    void tabTo(String name) {
        String last = "";
        for (int i = 0; i < 60; i++) {
            last = String.valueOf(browser.script("const on = document.activeElement;"
                    + "return on.getAttribute('aria-label') || on.type === 'checkbox' && on.closest('label').innerText"
                    + " || on.getAttribute('placeholder') || on.innerText"
                    + " || on.title || on.name || ''"));
            if (last.strip().startsWith(name)) {
                return;
            }
            browser.keys(Keys.TAB);
        }
        throw new AssertionError("no field " + name + " is reached by Tab, the last was " + last);
    }

    /** Takes one of a row of alternatives: Tab goes to the row, the arrows along it. */
    void alternative(String name) {
        String on = "const on = document.activeElement; const label = on.type === 'radio' && on.closest('label');";
        for (int i = 0; i < 60; i++) {
            if (Boolean.TRUE.equals(browser.script(
                    on + "return !!label && [...label.parentElement.children].some(l => l.innerText === arguments[0])",
                    name))) {
                for (int step = 0; step < 5; step++) {
                    if (Boolean.TRUE.equals(browser.script(on + "return label.innerText === arguments[0]", name))) {
                        return;
                    }
                    browser.keys(Keys.ARROW_RIGHT);
                }
            }
            browser.keys(Keys.TAB);
        }
        throw new AssertionError("no row with " + name + " is reached by Tab");
    }

    /** Picks what begins with a text from the list of a field, by typing it. */
    void pick(String field, String text) {
        tabTo(field);
        browser.keys(text);
        browser.until("the list shows " + text, () -> browser
                .driver()
                .findElements(By.cssSelector(
                        ".ant-select-dropdown:not(.ant-select-dropdown-hidden)" + " .ant-select-item-option-active"))
                .stream()
                .anyMatch(option -> option.getText().contains(text)));
        browser.keys(Keys.ENTER);
    }

    void into(String field, String text) {
        tabTo(field);
        browser.keys(Keys.chord(Keys.CONTROL, "a"), text, Keys.TAB);
    }

    /** Chooses the Read. */
    void read() {
        browser.leaveField();
        browser.keys("1");
        browser.seeText("One record is");
    }

    /** Makes one record of the rows of a loan, and leaves out those without a registration number. */
    void loansOfKnownInstitutions() {
        read();
        fields();
        pick("Business key", "loan_no");
        pick("Grouped by", "loan_no");
        browser.leaveField();
        browser.seeText("N → 1");
        add("leaves the others out");
        into("Goes on when", "normalize-space($loan/institution_no) != ''");
        into("Left out as", "no registration number");
    }

    /** Goes into the fields of the stage that is chosen. */
    void fields() {
        browser.leaveField();
        browser.keys("e");
    }

    /** Chooses the line of the outline that begins with a text, line by line from the top. */
    void line(String says) {
        browser.leaveField();
        browser.keys("1");
        browser.until("the Read is chosen", () -> chosen().startsWith("Read"));
        while (!at().equals("0")) {
            String before = at();
            browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_LEFT));
            browser.until("the line above is chosen", () -> !at().equals(before));
        }
        for (int i = 0; i < 40; i++) {
            if (chosen().startsWith(says)) {
                browser.settle();
                return;
            }
            String before = at();
            browser.keys(Keys.chord(Keys.ALT, Keys.ARROW_RIGHT));
            browser.until("a line behind “" + chosen() + "” is chosen", () -> !at().equals(before));
        }
        throw new AssertionError("no line says " + says + ": "
                + browser.see("ol[aria-label=Outline]").getText());
    }

    /** Which line of the outline is chosen. */
    String at() {
        return String.valueOf(
                browser.script("return [...document.querySelectorAll('ol[aria-label=Outline] > li')].findIndex("
                        + "line => line.querySelector('[aria-current=true]'))"));
    }

    String chosen() {
        String text = String.valueOf(
                browser.script("const on = document.querySelector('ol[aria-label=Outline] [aria-current=true]');"
                        + "return on ? on.innerText : ''"));
        return text.replaceAll("\\s+", " ").replaceFirst("^[ab]?[\\d.]+ ", "").strip();
    }

    void column(String name, String fill) {
        browser.keys("c");
        browser.until(
                "the new column is named",
                () -> Boolean.TRUE.equals(
                        browser.script("return document.activeElement.getAttribute('aria-label') === 'Column name'")));
        browser.keys(name, Keys.ENTER);
        browser.until("it is called " + name, () -> inFocus().equals(name));
        type(fill);
    }

    /** Adds a Write at what is chosen, and says what fills its columns. */
    void write(String dataset, String... columns) {
        add("Writes rows");
        target(dataset, columns);
    }

    void target(String dataset, String... columns) {
        pick("Target dataset", dataset);
        browser.leaveField();
        for (int i = 0; i < columns.length; i += 2) {
            column(columns[i], columns[i + 1]);
        }
        saved();
    }

    void condition(String expression, String message) {
        browser.leaveField();
        browser.keys("p");
        browser.seeText("Counts as failed when");
        browser.keys("e");
        tabTo("Add a condition");
        browser.keys(Keys.ENTER);
        into("Condition", expression);
        into("Message", message);
        saved();
    }

    /** Runs the flow that is open and the demo's own, and expects the same ends and counts. */
    void runsAsTheDemos(String name, String changes, String demo) throws Exception {
        browser.keys("r");
        browser.seeText(changes + " changes data");
        browser.keys(Keys.ENTER);
        browser.until("the run page is shown", () -> browser.location().startsWith("/runs/"));
        browser.until(
                "the run is done",
                () -> browser.see("h1 + .chip, .chip").getText().equals("done"));
        ProductClient client = product.client();
        Map<String, Long> built = ends(client, flow(client, name));
        long demos = flow(client, demo);
        client.post("/api/flows/" + demos + "/runs", Map.of("environment", "Test"));
        browser.until("the demo's own is done", () -> state(client, demos).equals("done"));
        assertEquals(built, ends(client, demos));
    }

    private static long flow(ProductClient client, String name) throws Exception {
        for (JsonNode each : client.get("/api/flows?size=100").get("items")) {
            if (each.get("name").asText().equals(name)) {
                return each.get("id").asLong();
            }
        }
        throw new AssertionError("there is no flow " + name);
    }

    private static String state(ProductClient client, long flow) {
        try {
            return client.get("/api/runs?flow=" + flow)
                    .get("items")
                    .get(0)
                    .get("state")
                    .asText();
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * How many records of a flow's last run ended in which way, and the counts of its stages by what they are about.
     */
    private static Map<String, Long> ends(ProductClient client, long flow) throws Exception {
        JsonNode run = client.get("/api/runs?flow=" + flow).get("items").get(0);
        Map<String, Long> ends = new TreeMap<>();
        for (String end : List.of("read", "done", "rejected", "leftOut", "inDoubt", "heldBack", "saved", "rows")) {
            ends.put(end, run.get(end).asLong());
        }
        return ends;
    }
}
