package wirekettle.server;

import io.agroal.api.AgroalDataSource;
import io.agroal.api.configuration.AgroalConnectionPoolConfiguration.ConnectionValidator;
import io.agroal.api.configuration.supplier.AgroalDataSourceConfigurationSupplier;
import io.agroal.api.security.NamePrincipal;
import io.agroal.api.security.SimplePassword;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import org.apache.ibatis.mapping.Environment;
import org.apache.ibatis.session.Configuration;
import org.apache.ibatis.session.SqlSessionFactoryBuilder;
import org.apache.ibatis.session.SqlSessionManager;
import org.apache.ibatis.transaction.jdbc.JdbcTransactionFactory;
import org.flywaydb.core.Flyway;

/** A PostgreSQL database of the product's own, migrated as the server does it, which ./test starts a server for. */
public final class Database implements AutoCloseable {
    /** What every database begins as: migrated once. */
    private static final class Template {
        private static final String NAME = made();

        private static String made() {
            String name = "server_template_" + Long.toString(System.nanoTime(), 36);
            try {
                admin("create database " + name);
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
            Flyway.configure()
                    .dataSource(url(name), "admin", System.getenv("WIREKETTLE_TEST_PG_PASSWORD"))
                    .load()
                    .migrate();
            Runtime.getRuntime().addShutdownHook(new Thread(() -> drop(name)));
            return name;
        }

        private static void drop(String name) {
            try {
                admin("drop database " + name);
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        }
    }

    private final String name = "server_" + Long.toString(System.nanoTime(), 36);
    private final AgroalDataSource source;
    private final Configuration mappers;
    private final SqlSessionManager sessions;

    private Database() throws SQLException {
        admin("create database " + name + " template " + Template.NAME);
        source = AgroalDataSource.from(
                new AgroalDataSourceConfigurationSupplier().connectionPoolConfiguration(pool -> pool.maxSize(8)
                        .acquisitionTimeout(Duration.ofSeconds(20))
                        .validateOnBorrow(true)
                        .connectionValidator(ConnectionValidator.defaultValidator())
                        .connectionFactoryConfiguration(factory -> factory.jdbcUrl(url(name))
                                .principal(new NamePrincipal("admin"))
                                .credential(new SimplePassword(System.getenv("WIREKETTLE_TEST_PG_PASSWORD"))))));
        mappers = new Configuration(new Environment("test", new JdbcTransactionFactory(), source));
        sessions = SqlSessionManager.newInstance(new SqlSessionFactoryBuilder().build(mappers));
    }

    /** Makes a database with all the product's tables and nothing in them. */
    public static Database open() throws SQLException {
        return new Database();
    }

    private static String url(String database) {
        String port = System.getenv("WIREKETTLE_TEST_PG_PORT");
        if (port == null) {
            throw new AssertionError("no PostgreSQL to test with: run the tests through ./test");
        }
        return "jdbc:postgresql://127.0.0.1:" + port + "/" + database;
    }

    private static Connection admin() throws SQLException {
        return DriverManager.getConnection(url("postgres"), "admin", System.getenv("WIREKETTLE_TEST_PG_PASSWORD"));
    }

    private static void admin(String sql) throws SQLException {
        try (Connection connection = admin();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Returns the connections the product's beans would be given. */
    public AgroalDataSource source() {
        return source;
    }

    /** Returns a mapper; each of its statements is a transaction of its own. */
    public <T> T mapper(Class<T> type) {
        synchronized (mappers) {
            if (!mappers.hasMapper(type)) {
                mappers.addMapper(type);
            }
        }
        return sessions.getMapper(type);
    }

    /** Executes a statement. */
    public void execute(String sql) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Returns the one value a query gives, as a text. */
    public String value(String sql) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            return rows.next() ? rows.getString(1) : null;
        }
    }

    /** Ends all connections there are, as a database does that goes down, and refuses new ones until told otherwise. */
    public void away() throws SQLException {
        admin("alter database " + name + " with allow_connections false");
        admin("select pg_terminate_backend(pid) from pg_stat_activity where datname = '" + name + "'");
    }

    /** Takes connections again. */
    public void back() throws SQLException {
        admin("alter database " + name + " with allow_connections true");
    }

    @Override
    public void close() throws SQLException {
        source.close();
        admin("drop database " + name + " with (force)");
    }
}
