package wirekettle.cli;

import static org.testng.Assert.assertEquals;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import org.testng.SkipException;
import org.testng.annotations.Test;

/** What the scripts at the root share. */
public class ScriptsTest {
    private static final Path ROOT = Path.of("..").toAbsolutePath().normalize();

    private record Ended(int code, String said) {}

    private static Ended bash(String script) throws IOException, InterruptedException {
        Process process = new ProcessBuilder(
                        "bash", "-c", "set -euo pipefail; . " + ROOT + "/scripts/lib.sh; " + script)
                .redirectErrorStream(true)
                .start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        return new Ended(process.waitFor(), said);
    }

    @Test
    public void aServerThatRanOutOfMemoryIsStartedAgainAndAnyOtherEndIsAnEnd() throws Exception {
        Path folder = Files.createTempDirectory("again-");
        Path server = Files.writeString(
                folder.resolve("server.sh"),
                "echo started\n[ -f " + folder + "/third ] && exit 5\n"
                        + "[ -f " + folder + "/second ] && { touch " + folder + "/third; exit 3; }\n"
                        + "touch " + folder + "/second; exit 3\n");
        Path log = folder.resolve("log");
        Ended ended = bash("again 'bash " + server + "' " + log);
        assertEquals(ended.code(), 5, ended.said());
        assertEquals(Files.readString(log), "started\nstarted\nstarted\n");
        assertEquals(ended.said().split("ran out of memory and is started again", -1).length - 1, 2, ended.said());
    }

    @Test
    public void whatRunsAsTheDatabasesUserComplainsOfNoFolder() throws Exception {
        if (!"root".equals(System.getProperty("user.name"))) {
            throw new SkipException("only root changes to another user");
        }
        // a folder the other user cannot stand in
        Path closed = Files.createTempDirectory("closed-");
        Ended ended = bash("cd " + closed + "; pg_user true");
        assertEquals(ended.said(), "");
        assertEquals(ended.code(), 0);
    }
}
