package wirekettle.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;

/** Takes the pictures of docs/screenshots from a product started with {@code --demo}: {@code Screenshots ADDRESS FOLDER}. */
public final class Screenshots {
    private Screenshots() {}

    /** Signs in and takes one picture of each main view. */
    public static void main(String[] args) throws IOException {
        Path folder = Path.of(args[1]);
        try (Browser browser = new Browser(args[0], Files.createTempDirectory("downloads"))) {
            browser.signIn("ada", "halewick-demo");
            browser.seeText("Waiting for you");
            browser.picture(folder.resolve("desk.png"));
            browser.open("/contracts/1");
            browser.seeText("registrationNumber>");
            browser.picture(folder.resolve("contract.png"));
            browser.open("/datasets");
            browser.seeText("loans");
            browser.open("/datasets/1");
            browser.seeText("HC-20481-1");
            browser.picture(folder.resolve("dataset.png"));
            browser.open("/flows/1?stage=call");
            browser.seeText("registrationNumber>");
            browser.seeText("50 rows");
            browser.picture(folder.resolve("flow.png"));
            browser.open("/flows/1?stage=write");
            browser.seeText("checked_at");
            browser.press("Call again");
            browser.seeText("kept");
            browser.picture(folder.resolve("flow-write.png"));
            browser.open("/runs/1");
            browser.seeText("UnknownInstitution");
            browser.picture(folder.resolve("run.png"));
        }
    }
}
