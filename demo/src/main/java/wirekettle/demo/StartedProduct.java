package wirekettle.demo;

import java.io.File;
import java.io.IOException;
import java.net.BindException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;

/** The packaged server as a process of its own with a database of its own, for tests and benchmarks. */
public final class StartedProduct implements AutoCloseable {
    private static final String PASSWORD = "a-first-password";
    private static final String READER_PASSWORD = "reads-and-nothing-else";
    private static final String LOG = "server.log";
    private static final int FIRST_PORT = 12_000;
    private static final int MOST_PORTS = 15_000;
    // tests in other processes begin elsewhere
    private static final AtomicInteger PORTS =
            new AtomicInteger((int) (ProcessHandle.current().pid() * 37 % MOST_PORTS));

    private final Path root;
    private final int pgPort;
    private final String pgPassword;
    private final String database;
    private final Path data;
    private final int port;
    private final List<String> javaOptions;
    private final Map<String, String> environment;
    private final boolean beside;
    private Process process;

    /**
     * Starts a product; PostgreSQL comes from WIREKETTLE_TEST_PG_PORT and WIREKETTLE_TEST_PG_PASSWORD, which ./test
     * sets, as it does with further options of its JVM in WIREKETTLE_TEST_JAVA.
     *
     * @param root the folder of the whole project
     * @param javaOptions options of its JVM
     * @param environment settings over the usual ones
     */
    public StartedProduct(Path root, List<String> javaOptions, Map<String, String> environment)
            throws IOException, SQLException {
        this(root, javaOptions, environment, null);
    }

    /** Starts a product that begins where another stood. */
    public StartedProduct(Path root, List<String> javaOptions, Map<String, String> environment, Left from)
            throws IOException, SQLException {
        this.root = root.toAbsolutePath().normalize();
        this.javaOptions = javaOptions;
        this.environment = environment;
        this.beside = false;
        String given = System.getenv("WIREKETTLE_TEST_PG_PORT");
        if (given == null) {
            throw new IOException("no PostgreSQL to test with: run the tests through ./test");
        }
        pgPort = Integer.parseInt(given);
        pgPassword = System.getenv("WIREKETTLE_TEST_PG_PASSWORD");
        database = "t" + Long.toString(System.nanoTime(), 36);
        data = Files.createTempDirectory("wirekettle-data-");
        port = freePort();
        try (Connection admin = admin("postgres");
                Statement statement = admin.createStatement()) {
            statement.execute("create database \"" + database + "\""
                    + (from == null ? "" : " template \"" + from.database() + "\""));
            statement.execute("create database \"" + database + "_w\"");
            statement.execute("create role \"" + database + "_r\" login password '" + READER_PASSWORD + "'");
        }
        try (Connection warehouse = admin(database + "_w");
                Statement statement = warehouse.createStatement()) {
            statement.execute("alter default privileges grant select on tables to \"" + database + "_r\"");
        }
        if (from != null) {
            copy(from.data(), data);
            forgetNumbersAhead();
        }
        start();
    }

    /** Starts a second server on the database and the files of another one. */
    private StartedProduct(StartedProduct other) throws IOException {
        root = other.root;
        javaOptions = other.javaOptions;
        environment = other.environment;
        pgPort = other.pgPort;
        pgPassword = other.pgPassword;
        database = other.database;
        data = other.data;
        port = freePort();
        beside = true;
        start();
    }

    /** Starts a second server beside this one: they share database and files. To be closed before this one. */
    public StartedProduct beside() throws IOException {
        return new StartedProduct(this);
    }

    /**
     * Returns a port that nobody has: none of those the system gives to whoever asks for any, for the product takes it
     * a while later, and none given before.
     */
    private static int freePort() throws IOException {
        while (true) {
            int port = FIRST_PORT + PORTS.getAndIncrement() % MOST_PORTS;
            try (ServerSocket free = new ServerSocket()) {
                free.bind(new InetSocketAddress(InetAddress.getByName("127.0.0.1"), port));
                return port;
            } catch (BindException e) {
                // somebody has it
            }
        }
    }

    /**
     * What a product leaves behind for others to begin with.
     *
     * @param database its database, without connections
     * @param data its files
     */
    public record Left(String database, Path data) {}

    /** Ends the server and leaves all it has behind. */
    public Left leave() throws IOException, SQLException {
        kill();
        try (Connection admin = admin("postgres");
                Statement statement = admin.createStatement()) {
            // the server's connections end a moment after it
            statement.execute("alter database \"" + database + "\" with allow_connections false");
            statement.execute(
                    "select pg_terminate_backend(pid, 5000) from pg_stat_activity where datname = '" + database + "'");
        }
        return new Left(database, data);
    }

    /**
     * A sequence writes its next numbers to the log ahead; a copied database believes it did so too, and would give the
     * same numbers again after a crash.
     */
    private void forgetNumbersAhead() throws SQLException {
        try (Connection admin = admin(database);
                Statement statement = admin.createStatement()) {
            statement.execute("select setval(format('%I.%I', schemaname, sequencename)::regclass,"
                    + " coalesce(last_value, start_value), last_value is not null) from pg_sequences");
        }
    }

    private static void copy(Path from, Path to) throws IOException {
        try (Stream<Path> all = Files.walk(from)) {
            for (Path each : all.toList()) {
                Path place = to.resolve(from.relativize(each).toString());
                if (Files.isDirectory(each)) {
                    Files.createDirectories(place);
                } else if (!each.endsWith(LOG)) {
                    Files.copy(each, place, StandardCopyOption.COPY_ATTRIBUTES);
                }
            }
        }
    }

    private static void remove(Path folder) throws IOException {
        try (Stream<Path> all = Files.walk(folder)) {
            for (Path each : all.sorted(Comparator.reverseOrder()).toList()) {
                Files.deleteIfExists(each);
            }
        }
    }

    /** Opens a connection of the database's administrator. */
    public Connection admin(String which) throws SQLException {
        return DriverManager.getConnection(url(which), "admin", pgPassword);
    }

    private String url(String which) {
        return "jdbc:postgresql://127.0.0.1:" + pgPort + "/" + which;
    }

    /** Returns the name of the product's database; users' SQL runs in the one of that name with {@code _w}. */
    public String database() {
        return database;
    }

    /** Starts the server, again after {@link #kill}. */
    public void start() throws IOException {
        List<String> command = new ArrayList<>();
        command.add(System.getProperty("java.home") + "/bin/java");
        command.add("@" + root.resolve("scripts/server.options"));
        command.addAll(javaOptions);
        String quick = System.getenv("WIREKETTLE_TEST_JAVA");
        if (quick != null) {
            command.addAll(List.of(quick.split(" ")));
        }
        // a JVM passes over a file that is not there
        command.add("-XX:SharedArchiveFile=" + root.resolve("server/target/server-classes.jsa"));
        command.add("-jar");
        command.add(root.resolve("server/target/server-0.1.0-runner.jar").toString());
        File log = data.resolve(beside ? "second-" + LOG : LOG).toFile();
        ProcessBuilder builder = new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.appendTo(log));
        Map<String, String> env = builder.environment();
        env.put("WIREKETTLE_PORT", Integer.toString(port));
        env.put("WIREKETTLE_DATA", data.toString());
        env.put("WIREKETTLE_DB", url(database));
        env.put("WIREKETTLE_DB_USER", "admin");
        env.put("WIREKETTLE_DB_PASSWORD", pgPassword);
        env.put("WIREKETTLE_SQL", url(database + "_w"));
        env.put("WIREKETTLE_SQL_USER", "admin");
        env.put("WIREKETTLE_SQL_PASSWORD", pgPassword);
        env.put("WIREKETTLE_SQL_READER", database + "_r");
        env.put("WIREKETTLE_SQL_READER_PASSWORD", READER_PASSWORD);
        env.put("WIREKETTLE_FIRST_PASSWORD", PASSWORD);
        env.putAll(environment);
        process = builder.start();
        ProductClient client = new ProductClient(address());
        for (int i = 0; i < 600; i++) {
            try {
                if (client.send("GET", "/q/health/ready", null, Map.of()).status() == 200) {
                    return;
                }
            } catch (IOException e) {
                // not listening yet
            }
            if (!process.isAlive()) {
                throw new IOException("the server did not start:\n" + Files.readString(log.toPath()));
            }
            pause();
        }
        throw new IOException("the server did not become ready:\n" + Files.readString(log.toPath()));
    }

    private static void pause() throws IOException {
        try {
            Thread.sleep(100);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("interrupted", e);
        }
    }

    /** Returns the address, without a trailing slash. */
    public String address() {
        return "http://127.0.0.1:" + port;
    }

    /** Returns a client signed in as the first person. */
    public ProductClient client() throws IOException {
        ProductClient client = new ProductClient(address());
        client.signIn("ada", PASSWORD);
        return client;
    }

    /** Returns where the product keeps its files. */
    public Path data() {
        return data;
    }

    /** Returns the first person's password. */
    public String password() {
        return PASSWORD;
    }

    /** Returns the server's process. */
    public ProcessHandle handle() {
        return process.toHandle();
    }

    /** Returns what the server logged. */
    public String log() throws IOException {
        return Files.readString(data.resolve(LOG));
    }

    /** Ends the server at once, as kill -9 does. */
    public void kill() throws IOException {
        process.destroyForcibly();
        try {
            process.waitFor();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("interrupted", e);
        }
    }

    /** Ends the server, looks for secrets in all it leaves behind, and removes its database. */
    @Override
    public void close() throws IOException, SQLException {
        kill();
        if (beside) {
            return;
        }
        try (Connection admin = admin("postgres");
                Statement statement = admin.createStatement()) {
            statement.execute("alter database \"" + database + "\" with allow_connections true");
        }
        List<String> leaked;
        try (Connection left = admin(database)) {
            leaked = SecretSearch.everywhere(left, data);
        }
        try (Connection admin = admin("postgres");
                Statement statement = admin.createStatement()) {
            statement.execute("drop database \"" + database + "\" with (force)");
            statement.execute("drop database \"" + database + "_w\" with (force)");
            statement.execute("drop role \"" + database + "_r\"");
        }
        if (!leaked.isEmpty()) {
            throw new IllegalStateException("secrets were left behind in " + data + ": " + leaked);
        }
        remove(data);
    }
}
