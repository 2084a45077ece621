package wirekettle.e2e;

import static org.testng.Assert.assertThrows;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Map;
import org.testng.annotations.Test;

/**
 * PostgreSQL killed in the middle of runs that change data. All servers on it lose it for a moment: nothing else is tested
 * beside this.
 */
public class KilledDatabaseTest extends KilledBookings {
    /** A process of PostgreSQL that is killed takes all others with it; it recovers from its log and starts anew. */
    @Test
    public void nothingIsSentTwiceOrLostWhenPostgresIsKilled() throws Exception {
        long flow = bookings("Killed database");
        for (int i = 0; i < 2; i++) {
            received.clear();
            JsonNode run =
                    client.post("/api/flows/" + flow + "/runs", Map.of("environment", "Test", "confirmed", true));
            int until = 5 + random.nextInt(60);
            Until.until("some were sent", () -> received.size() >= until);
            killPostgres();
            String path = "/api/runs/" + run.get("id").asLong();
            Until.until("the run is done all the same", () -> state(path).equals("done"));
            balance(path, client.get(path).get("run"));
        }
    }

    private void killPostgres() throws Exception {
        try (Connection admin = product.admin("postgres");
                Statement statement = admin.createStatement()) {
            ResultSet one = statement.executeQuery(
                    "select pid from pg_stat_activity where datname = '" + product.database() + "' limit 1");
            assertTrue(one.next());
            ProcessHandle.of(one.getLong(1)).orElseThrow().destroyForcibly();
            assertThrows(SQLException.class, () -> {
                while (statement.execute("select 1")) {
                    Thread.onSpinWait();
                }
            });
        }
    }

    /** Returns the state of a run; while the database is away the server cannot tell. */
    private String state(String path) {
        try {
            return client.get(path).get("run").get("state").asText();
        } catch (IOException e) {
            return "not known now";
        }
    }
}
