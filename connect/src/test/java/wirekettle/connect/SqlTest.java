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
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.core.flow.run.RecordSource;
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

    /** The role queries run as: it has been granted select, and nothing else. */
    private static Connection reader() throws java.sql.SQLException {
        return DriverManager.getConnection(
                "jdbc:postgresql://127.0.0.1:" + System.getenv("WIREKETTLE_TEST_PG_PORT") + "/" + DATABASE,
                DATABASE + "_reader",
                "reads-and-nothing-else");
    }

    @BeforeClass
    public void create() throws Exception {
        try (Connection admin = open("postgres")) {
            admin.createStatement().execute("create database " + DATABASE);
            admin.createStatement()
                    .execute("create role " + DATABASE + "_reader login password 'reads-and-nothing-else'");
        }
        try (Connection own = open()) {
            own.createStatement().execute("alter default privileges grant select on tables to " + DATABASE + "_reader");
        }
    }

    @AfterClass(alwaysRun = true)
    public void drop() throws Exception {
        try (Connection admin = open("postgres")) {
            admin.createStatement().execute("drop database if exists " + DATABASE + " with (force)");
            admin.createStatement().execute("drop role if exists " + DATABASE + "_reader");
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
            try (SqlSink sink = new SqlSink(
                    new SqlTransaction(SqlTest::open), "crates", COLUMNS, List.of("crate_no"), true, null, 0)) {
                sink.write(1, rows("HC-1'; drop table crates; --", weight, "2026-11-23T09:14:02Z", "true"));
                sink.write(2, rows("HC-2", "", null, ""));
                assertEquals(sink.tryRows(), Map.of());
                sink.flush();
                assertEquals(sink.position(), 2);
                sink.finish();
            }
        }
        try (SqlSource source =
                new SqlSource(SqlTest::reader, SqlSource.select("crates") + " order by crate_no", "crates")) {
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
        try (SqlSink sink =
                new SqlSink(new SqlTransaction(SqlTest::open), "papers", columns, List.of(), true, null, 0)) {
            sink.write(1, rows("agreement", "AAECAw=="));
            sink.write(2, rows("nothing", null));
            sink.write(3, rows("wrong", "=no base64="));
            Map<Long, String> refused = sink.tryRows();
            sink.flush();
            assertEquals(refused.keySet(), java.util.Set.of(3L));
            assertTrue(refused.get(3L).contains("content takes bytes"), refused.toString());
        }
        try (SqlSource source = new SqlSource(SqlTest::reader, "select * from papers order by name", "papers")) {
            assertEquals(source.next().node().textOf("content"), "AAECAw==");
            assertEquals(source.next().node().textOf("content"), "");
        }
    }

    @Test
    public void onlyTheRecordToBlameIsRefused() throws Exception {
        try (SqlSink sink =
                new SqlSink(new SqlTransaction(SqlTest::open), "strict_crates", COLUMNS, List.of(), true, null, 0)) {
            sink.write(1, rows("HC-1", "1", null, null));
            sink.write(2, rows("HC-2", "heavy", null, null));
            sink.write(3, rows(null, "3", null, null));
            sink.write(4, rows("HC-4", "4", null, null));
            Map<Long, String> refused = sink.tryRows();
            sink.flush();
            assertEquals(refused.keySet(), java.util.Set.of(2L, 3L));
            assertTrue(refused.get(2L).contains("heavy"), refused.toString());
        }
        try (Connection connection = open();
                ResultSet count = connection.createStatement().executeQuery("select count(*) from strict_crates")) {
            count.next();
            assertEquals(count.getInt(1), 2);
        }
    }

    private static String value(String sql) throws Exception {
        try (Connection connection = open();
                ResultSet rows = connection.createStatement().executeQuery(sql)) {
            return rows.next() ? rows.getString(1) : null;
        }
    }

    @Test
    public void aRecordOneTableRefusesLeavesNoRowInTheOthers() throws Exception {
        SqlTransaction together = new SqlTransaction(SqlTest::open);
        try (SqlSink first = new SqlSink(together, "pair_a", COLUMNS, List.of(), true, "run 7 a", 0);
                SqlSink second = new SqlSink(together, "pair_b", COLUMNS, List.of(), true, "run 7 b", 0)) {
            for (int i = 1; i <= 4; i++) {
                first.write(i, rows("HC-" + i, "1", null, null));
                second.write(i, rows("HC-" + i, i == 2 ? "heavy" : "2", null, null));
            }
            assertEquals(first.tryRows(), Map.of());
            assertEquals(second.tryRows().keySet(), java.util.Set.of(2L));
            assertEquals(value("select count(*) from pair_a"), "0", "nothing is durable before the flush");
            for (SqlSink each : List.of(first, second)) {
                each.takeBack(2);
            }
            first.write(2, rows("HC-2 refused", "0", null, null));
            assertEquals(first.tryRows(), Map.of());
            assertEquals(second.tryRows(), Map.of());
            first.flush();
            assertEquals(
                    value("select string_agg(run || ' ' || ordinal, ', ' order by run) from wirekettle_position"),
                    "run 7 a 4, run 7 b 4",
                    "both go as far as each other");
            second.flush();
            first.finish();
            second.finish();
        }
        assertEquals(
                value("select string_agg(crate_no, ' ' order by crate_no) from pair_a"), "HC-1 HC-2 refused HC-3 HC-4");
        assertEquals(value("select string_agg(crate_no, ' ' order by crate_no) from pair_b"), "HC-1 HC-3 HC-4");
        assertEquals(value("select count(*) from wirekettle_position"), "0");
    }

    @Test
    public void aTableThatIsDroppedRefusesEveryRecordAndSaysSo() throws Exception {
        try (SqlSink sink =
                new SqlSink(new SqlTransaction(SqlTest::open), "short_lived", COLUMNS, List.of(), true, "run 9 a", 0)) {
            sink.write(1, rows("HC-1", "1", null, null));
            assertEquals(sink.tryRows(), Map.of());
            sink.flush();
            try (Connection connection = open()) {
                connection.createStatement().execute("drop table short_lived");
            }
            sink.write(2, rows("HC-2", "1", null, null));
            sink.write(3, rows("HC-3", "1", null, null));
            Map<Long, String> refused = sink.tryRows();
            assertEquals(refused.keySet(), java.util.Set.of(2L, 3L));
            assertTrue(refused.get(2L).contains("short_lived"), refused.toString());
            sink.flush();
        }
    }

    @Test
    public void twoOutputsToOneTableNeverWaitForEachOther() throws Exception {
        SqlTransaction together = new SqlTransaction(SqlTest::open);
        List<String> keys = List.of("crate_no");
        try (SqlSink first = new SqlSink(together, "shared", COLUMNS, keys, true, null, 0);
                SqlSink second = new SqlSink(together, "shared", COLUMNS, keys, true, null, 0)) {
            first.write(1, rows("HC-1", "1", null, null));
            second.write(2, rows("HC-1", "2", null, null));
            assertEquals(first.tryRows(), Map.of());
            assertEquals(second.tryRows(), Map.of());
            first.flush();
            second.flush();
        }
        assertEquals(value("select gross_kg::text from shared"), "2");
    }

    @Test
    public void whatWasTriedAndNotFlushedIsNotInTheTable() throws Exception {
        try (SqlSink sink =
                new SqlSink(new SqlTransaction(SqlTest::open), "half", COLUMNS, List.of(), true, "run 8 a", 0)) {
            sink.write(1, rows("HC-1", "1", null, null));
            sink.tryRows();
            sink.flush();
            sink.write(2, rows("HC-2", "1", null, null));
            sink.tryRows();
            sink.leave();
        }
        assertEquals(value("select count(*) from half"), "1");
        try (SqlSink again =
                new SqlSink(new SqlTransaction(SqlTest::open), "half", COLUMNS, List.of(), true, "run 8 a", 1)) {
            again.write(1, rows("HC-1", "1", null, null)); // it was in before
            again.write(2, rows("HC-2", "1", null, null));
            assertEquals(again.tryRows(), Map.of());
            again.finish();
        }
        assertEquals(value("select string_agg(crate_no, ' ') from half"), "HC-1 HC-2");
    }

    @DataProvider
    public Object[][] keys() {
        return new Object[][] {
            {"no", "7", "7"},
            {"no", "007", ""},
            {"no", "seven; drop table zones", ""},
            {"no", "99999999999999999999", ""},
            {"code", "NV", "7 8"},
            {"code", "nv", ""},
            {"short", "a", "7"},
            {"price", "1.50", "7"},
            {"price", "1.5", ""},
            {"since", "2026-12-04", "8"},
            {"seen", "2026-12-04T10:00:00+01:00", ""},
            {"open", "true", "7"},
            {"id", "6f1c2a52-0c9e-4f5b-8a55-3f1c6f6f0001", "9"},
            {"weird_name", "w", "9"},
        };
    }

    /** Values are compared as the flow sees them, whatever the column's type is. */
    @Test(dataProvider = "keys")
    public void rowsAreFoundByKey(String column, String key, String expected) throws Exception {
        try (Connection connection = open()) {
            connection
                    .createStatement()
                    .execute(
                            "create table if not exists zones (no int, code varchar(9), short char(3), price numeric(9,2),"
                                    + " since date, seen timestamptz, open boolean, id uuid, \"weird \"\"name\" text);"
                                    + " delete from zones; insert into zones values"
                                    + " (7, 'NV', 'a', 1.5, null, now(), true, null, null),"
                                    + " (8, 'NV', 'bc', 2, '2026-12-04', null, false, null, null),"
                                    + " (9, 'OD', null, null, null, null, null, '6f1c2a52-0c9e-4f5b-8a55-3f1c6f6f0001', 'w')");
        }
        String query = "select * from zones order by no;";
        try (SqlLookUp rows = new SqlLookUp(SqlTest::reader, query, "zones", column)) {
            StringBuilder found = new StringBuilder();
            rows.rows(java.util.Set.of(key, "no such"))
                    .getOrDefault(key, List.of())
                    .forEach(row -> found.append(' ').append(row.textOf("no")));
            assertEquals(found.toString().strip(), expected);
        }
    }

    @Test
    public void aColumnThatIsGoneIsTold() {
        IOException e = expectThrows(
                IOException.class, () -> new SqlLookUp(SqlTest::reader, "select 1 as one", "zones", "two"));
        assertEquals(e.getMessage(), "zones has no column two any more");
    }

    @Test
    public void aWrongQuerySaysWhatTheDatabaseSays() {
        IOException e = expectThrows(
                IOException.class, () -> new SqlSource(SqlTest::reader, "select nothing from nowhere", "x"));
        assertTrue(e.getMessage().contains("nowhere"), e.getMessage());
    }

    @DataProvider
    public Object[][] attacks() {
        return new Object[][] {
            {"commit; delete from targets; commit; select 1"},
            {"commit; drop table targets; select 1"},
            {"rollback; alter role " + DATABASE + "_reader password 'x'; select 1"},
            {"select 1; delete from targets"},
            {"/* a comment; */ select 1 -- another\n; delete from targets"},
            {"delete from targets returning *"},
            {"with gone as (delete from targets returning *) select * from gone"},
            {"create table x (a int)"},
            {"copy targets to program 'true'"},
            {"do $$ begin delete from targets; end $$"},
            {"select set_config('transaction_read_only', 'off', false), (select count(*) from targets)"},
            {"set role admin"},
            {"explain analyze delete from targets"},
            {"select pg_read_file('/etc/hostname')"},
            {"select lo_create(0)"},
            {"begin"},
        };
    }

    @Test(dataProvider = "attacks")
    public void noQueryCanWriteWhateverItSays(String sql) throws Exception {
        try (Connection connection = open()) {
            connection.createStatement().execute("drop table if exists targets");
            connection.createStatement().execute("create table targets as select 1 as n");
        }
        try (SqlSource source = new SqlSource(SqlTest::reader, sql, "attack")) {
            while (source.next() != null) {
                // whatever it gives
            }
        } catch (IOException refused) {
            assertTrue(refused.getMessage().length() > 10, refused.getMessage());
        }
        try (Connection connection = open();
                ResultSet left = connection.createStatement().executeQuery("select count(*) from targets")) {
            left.next();
            assertEquals(left.getInt(1), 1);
        }
        try (Connection still = reader()) {
            assertTrue(still.isValid(5));
        }
    }

    @Test
    public void aRoleThatMayWriteIsRefusedForQueries() {
        IOException e = expectThrows(IOException.class, () -> new SqlSource(SqlTest::open, "select 1", "x"));
        assertTrue(e.getMessage().contains("may write in this database"), e.getMessage());
    }

    @Test
    public void aConnectionMaySayThatItsQueriesWrite() throws Exception {
        try (Connection connection = open()) {
            connection.createStatement().execute("create table taken (n int)");
        }
        SqlConnector writing = new SqlConnector() {
            @Override
            public Connection open() throws java.sql.SQLException {
                return SqlTest.open();
            }

            @Override
            public boolean queriesMayWrite() {
                return true;
            }
        };
        String sql = "with one as (insert into taken values (7) returning n) select n from one";
        try (SqlSource source = new SqlSource(writing, sql, "taken")) {
            assertEquals(source.next().node().textOf("n"), "7");
        }
        try (SqlSource source = new SqlSource(SqlTest::reader, "select n from taken", "taken")) {
            assertEquals(source.next().node().textOf("n"), "7");
        }
    }
}
