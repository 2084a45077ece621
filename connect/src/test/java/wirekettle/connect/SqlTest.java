package wirekettle.connect;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.io.IOException;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.testng.annotations.AfterClass;
import org.testng.annotations.BeforeClass;
import org.testng.annotations.Test;
import wirekettle.core.flow.RecordSource;
import wirekettle.core.value.Column;
import wirekettle.core.value.ScalarType;

/** Tables and queries against a real PostgreSQL, which ./test starts. */
public class SqlTest {
    private static final String DATABASE = "connect_" + Long.toString(System.nanoTime(), 36);
    private static final List<Column> COLUMNS = List.of(
            new Column("crate_no", "crate_no", ScalarType.STRING, null, true),
            new Column("gross_kg", "gross_kg", ScalarType.DECIMAL, null, false),
            new Column("checked_at", "checked_at", ScalarType.DATETIME, null, false),
            new Column("over limit", "over limit", ScalarType.BOOLEAN, null, false));

    private static Connection open(String database) throws java.sql.SQLException {
        String port = System.getenv("WIREKETTLE_TEST_PG_PORT");
        if (port == null) {
            throw new AssertionError("no PostgreSQL to test with: run the tests through ./test");
        }
        return DriverManager.getConnection(
                "jdbc:postgresql://127.0.0.1:" + port + "/" + database,
                "admin",
                System.getenv("WIREKETTLE_TEST_PG_PASSWORD"));
    }

    private static Connection open() throws java.sql.SQLException {
        return open(DATABASE);
    }

    @BeforeClass
    public void create() throws Exception {
        try (Connection admin = open("postgres")) {
            admin.createStatement().execute("create database " + DATABASE);
        }
    }

    @AfterClass(alwaysRun = true)
    public void drop() throws Exception {
        try (Connection admin = open("postgres")) {
            admin.createStatement().execute("drop database if exists " + DATABASE + " with (force)");
        }
    }

    private static List<String[]> rows(String... values) {
        List<String[]> rows = new ArrayList<>();
        rows.add(values);
        return rows;
    }

    @Test
    public void rowsAreUpsertedIntoATableCreatedOnRequestAndReadBack() throws Exception {
        for (String weight : List.of("96.5", "97.5")) {
            try (SqlSink sink = new SqlSink(SqlTest::open, "crates", COLUMNS, List.of("crate_no"), true)) {
                sink.write(1, rows("HC-1'; drop table crates; --", weight, "2026-11-23T09:14:02Z", "true"));
                sink.write(2, rows("HC-2", "", null, ""));
                assertEquals(sink.flush(), Map.of());
                assertEquals(sink.offset(), 2);
                sink.finish();
            }
        }
        try (SqlSource source =
                new SqlSource(SqlTest::open, SqlSource.select("crates") + " order by crate_no", "crates")) {
            assertEquals(source.layout().columns().get(1).type(), ScalarType.DECIMAL);
            assertEquals(source.layout().columns().get(3).name(), "over_limit");
            RecordSource.Item first = source.next();
            assertEquals(first.node().textOf("crate_no"), "HC-1'; drop table crates; --");
            assertEquals(first.node().textOf("gross_kg"), "97.5");
            assertEquals(first.node().textOf("over_limit"), "true");
            assertTrue(
                    first.node().textOf("checked_at").matches("2026-11-23T\\d\\d:14:02[+-]\\d\\d:\\d\\d"),
                    first.toString());
            assertEquals(source.next().node().textOf("gross_kg"), "");
            assertEquals(source.next(), null);
        }
    }

    @Test
    public void bytesOfAColumnTravelAsBase64() throws Exception {
        try (Connection connection = open()) {
            connection.createStatement().execute("create table papers (name text, content bytea)");
        }
        List<Column> columns = List.of(
                new Column("name", "name", ScalarType.STRING, null, false),
                new Column("content", "content", ScalarType.STRING, null, false));
        try (SqlSink sink = new SqlSink(SqlTest::open, "papers", columns, List.of(), true)) {
            sink.write(1, rows("agreement", "AAECAw=="));
            sink.write(2, rows("nothing", null));
            sink.write(3, rows("wrong", "=no base64="));
            Map<Long, String> refused = sink.flush();
            assertEquals(refused.keySet(), java.util.Set.of(3L));
            assertTrue(refused.get(3L).contains("content takes bytes"), refused.toString());
        }
        try (SqlSource source = new SqlSource(SqlTest::open, "select * from papers order by name", "papers")) {
            assertEquals(source.next().node().textOf("content"), "AAECAw==");
            assertEquals(source.next().node().textOf("content"), "");
        }
    }

    @Test
    public void onlyTheRecordToBlameIsRefused() throws Exception {
        try (SqlSink sink = new SqlSink(SqlTest::open, "strict_crates", COLUMNS, List.of(), true)) {
            sink.write(1, rows("HC-1", "1", null, null));
            sink.write(2, rows("HC-2", "heavy", null, null));
            sink.write(3, rows(null, "3", null, null));
            sink.write(4, rows("HC-4", "4", null, null));
            Map<Long, String> refused = sink.flush();
            assertEquals(refused.keySet(), java.util.Set.of(2L, 3L));
            assertTrue(refused.get(2L).contains("heavy"), refused.toString());
        }
        try (Connection connection = open();
                ResultSet count = connection.createStatement().executeQuery("select count(*) from strict_crates")) {
            count.next();
            assertEquals(count.getInt(1), 2);
        }
    }

    @Test
    public void aQueryIsReadOnlyAndAWrongOneSaysWhatTheDatabaseSays() {
        expectThrows(IOException.class, () -> new SqlSource(SqlTest::open, "create table x (a int)", "x"));
        IOException e =
                expectThrows(IOException.class, () -> new SqlSource(SqlTest::open, "select nothing from nowhere", "x"));
        assertTrue(e.getMessage().contains("nowhere"), e.getMessage());
    }
}
