package wirekettle.cli;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.sun.net.httpserver.HttpServer;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.RandomAccessFile;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Stream;
import org.testng.annotations.DataProvider;
import org.testng.annotations.Test;
import wirekettle.connect.CsvLook;
import wirekettle.connect.FolderSource;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.flow.file.DatasetSpec;
import wirekettle.core.flow.file.EndpointSpec;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.core.soap.EndpointSettings;
import wirekettle.core.value.CodeTable;
import wirekettle.demo.DemoBundle;
import wirekettle.demo.DemoLogins;
import wirekettle.demo.DemoWorld;
import wirekettle.demo.SecretSearch;

/** The command line as a process of its own with 256 MB of memory. */
public class KettleTest {
    private static final String REGISTER = "../demo/src/main/resources/world/register/InstitutionRegister.wsdl";

    private record Said(int exit, String out, String err) {}

    private static Said kettle(String... arguments) throws Exception {
        Path err = Files.createTempFile("err", ".txt");
        Process process = started(err, arguments);
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        return new Said(process.waitFor(), out, Files.readString(err));
    }

    private static Process started(Path err, String... arguments) throws IOException {
        List<String> command = new ArrayList<>(List.of(
                System.getProperty("java.home") + "/bin/java",
                "-Xmx256m",
                // it is over in a moment: nothing is won by compiling for long
                "-XX:TieredStopAtLevel=1",
                "-cp",
                System.getProperty("java.class.path"),
                Kettle.class.getName()));
        command.addAll(List.of(arguments));
        return new ProcessBuilder(command).redirectError(err.toFile()).start();
    }

    @Test
    public void helpExplains() throws Exception {
        Said said = kettle("--help");
        assertEquals(said.exit(), 0);
        for (String command : List.of("inspect", "envelope", "run")) {
            assertTrue(said.out().contains(command), said.out());
        }
    }

    @Test
    public void inspectSaysWhatIsThereOneObjectALine() throws Exception {
        Said said = kettle("inspect", "--json", REGISTER, "no-such.wsdl");
        assertEquals(said.exit(), 2);
        List<String> lines = said.out().lines().toList();
        assertEquals(lines.size(), 2);
        JsonNode register = new ObjectMapper().readTree(lines.get(0));
        assertTrue(register.get("ok").asBoolean());
        JsonNode port = register.get("services").get(0).get("ports").get(1);
        assertEquals(port.get("soapVersion").asText(), "1.2");
        assertEquals(port.get("operations").get(0).get("faults").get(0).asText(), "UnknownInstitution");
        assertEquals(register.get("types").asInt(), 4);
        JsonNode gone = new ObjectMapper().readTree(lines.get(1));
        assertFalse(gone.get("ok").asBoolean());
        assertEquals(gone.get("findings").get(0).get("code").asText(), "not-available");
    }

    private static List<String> contracts() throws IOException {
        try (Stream<Path> all = Stream.concat(
                Files.walk(Path.of("../demo/src/main/resources")), Files.walk(Path.of("../core/src/test/resources")))) {
            return all.filter(p -> p.toString().endsWith(".wsdl") || p.endsWith("rates.json"))
                    .map(Path::toString)
                    .sorted()
                    .toList();
        }
    }

    @DataProvider
    public static Object[][] variants() {
        return new Object[][] {{List.of()}, {List.of("--all")}, {List.of("--reply")}, {List.of("--all", "--reply")}};
    }

    /** Two contracts of the awkward ones say of themselves that no message can satisfy them; every other must. */
    @Test(dataProvider = "variants")
    public void everyContractOfTheRepositoryHasValidExamples(List<String> variant) throws Exception {
        List<String> arguments = new ArrayList<>(List.of("envelope", "--check"));
        arguments.addAll(variant);
        arguments.addAll(contracts());
        Said said = kettle(arguments.toArray(new String[0]));
        assertEquals(said.exit(), 0, said.out() + said.err());
        assertEquals(said.err(), "");
        List<String> excused =
                said.out().lines().filter(line -> !line.startsWith("valid ")).toList();
        assertEquals(excused.size(), variant.contains("--reply") ? 0 : 2, excused.toString());
        for (String line : excused) {
            assertTrue(line.matches("excused +(endless|impossible) Port Ask  .*(without end|no valid value).*"), line);
        }
        assertTrue(said.out().lines().count() > contracts().size() - 2, said.out());
    }

    @Test
    public void everyContractOfTheRepositoryIsInspectedWithoutAnException() throws Exception {
        List<String> arguments = new ArrayList<>(List.of("inspect", "--json"));
        arguments.addAll(contracts());
        Said said = kettle(arguments.toArray(new String[0]));
        assertEquals(said.exit(), 0, said.err());
        assertEquals(said.err(), "");
        assertEquals(said.out().lines().count(), contracts().size());
        for (String line : said.out().lines().toList()) {
            JsonNode contract = new ObjectMapper().readTree(line);
            assertTrue(contract.get("ok").asBoolean(), line);
            for (JsonNode finding : contract.get("findings")) {
                assertTrue(
                        finding.get("line").asInt() > 0 && finding.get("column").asInt() > 0, finding.toString());
            }
        }
    }

    @Test
    public void anUnknownOperationIsSaidWithWhatThereIs() throws Exception {
        Said said = kettle("envelope", REGISTER, "--operation", "LookDown");
        assertEquals(said.exit(), 2);
        assertTrue(said.err().contains("RegisterPort.LookUpInstitution"), said.err());
    }

    @Test
    public void theDemoBundleRunsFromItsCommittedFolderWithItsCounts() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path out = Files.createTempFile("borrowers", ".csv");
            Said said = kettle(
                    "run",
                    "../demo/bundle/check-borrowers",
                    "--out",
                    "borrowers=" + out,
                    "--endpoint",
                    "Institution Register=" + world.address("register"));
            assertEquals(said.exit(), 1, said.err());
            assertTrue(said.out().startsWith("240 read, 230 done, 10 rejected, 0 in doubt, 230 rows"), said.out());
            assertTrue(said.out().contains("3 × fault: UnknownInstitution"), said.out());
            assertEquals(Files.readAllLines(out).size(), 231);
        }
    }

    @Test
    public void theSoap12PortGivesTheSameCountsAndValidRequests() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path folder = Files.createTempDirectory("bundle");
            DemoBundle.write(folder);
            Path flow = folder.resolve("flow.json");
            Files.writeString(flow, Files.readString(flow).replace("\"RegisterPort\"", "\"RegisterPort12\""));
            Said said = kettle(
                    "run",
                    folder.toString(),
                    "--out",
                    "borrowers=" + folder.resolve("out.csv"),
                    "--endpoint",
                    "Institution Register=" + world.address("register"));
            assertEquals(said.exit(), 1, said.err());
            assertTrue(said.out().startsWith("240 read, 230 done, 10 rejected"), said.out());
            assertTrue(said.out().contains("3 × fault: UnknownInstitution"), said.out());
            assertEquals(world.register().invalidRequests(), List.of());
            assertEquals(world.register().received(), 237);
        }
    }

    @Test
    public void theCommittedBundleIsWhatTheDemoMakes() throws Exception {
        for (Map.Entry<String, byte[]> file : DemoBundle.checkBorrowers("http://127.0.0.1:8790/register")
                .files()
                .entrySet()) {
            byte[] committed =
                    Files.readAllBytes(Path.of("../demo/bundle/check-borrowers").resolve(file.getKey()));
            assertEquals(
                    new String(committed, StandardCharsets.UTF_8), new String(file.getValue(), StandardCharsets.UTF_8));
        }
    }

    @Test
    public void aBundleUsesSecretsFromAFolderAndNeverHoldsThem() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path bundle = Files.createTempDirectory("bundle");
            Path committed = Path.of("../demo/bundle/check-borrowers");
            try (Stream<Path> all = Files.walk(committed)) {
                for (Path each : all.filter(Files::isRegularFile).toList()) {
                    Path to = bundle.resolve(committed.relativize(each).toString());
                    Files.createDirectories(to.getParent());
                    Files.copy(each, to);
                }
            }
            String address = world.ports().address("register-basic");
            Files.writeString(
                    bundle.resolve("endpoints.json"),
                    "{\"Institution Register\": {\"name\": \"Institution Register\", \"address\": \"" + address
                            + "\", \"settings\": {\"login\": {\"kind\": \"basic\", \"user\": \"" + DemoLogins.USER
                            + "\", \"secret\": \"register password\"}}}}");
            String host = java.net.URI.create(address).getAuthority();
            Said without = kettle("run", bundle.toString(), "--allow", host);
            assertEquals(without.exit(), 2, without.err());
            assertTrue(
                    without.err().contains("register password") && without.err().contains("--secrets"), without.err());
            Path secrets = Files.createTempDirectory("secrets");
            Files.writeString(secrets.resolve("register password"), DemoLogins.PASSWORD + "\n");
            Said with = kettle(
                    "run",
                    bundle.toString(),
                    "--allow",
                    host,
                    "--limit",
                    "5",
                    "--json",
                    "--secrets",
                    secrets.toString());
            assertEquals(with.exit(), 0, with.out() + with.err());
            assertEquals(SecretSearch.in(with.out() + with.err()), null);
            Files.writeString(secrets.resolve("register password"), "wrong");
            Said wrong =
                    kettle("run", bundle.toString(), "--allow", host, "--limit", "5", "--secrets", secrets.toString());
            assertEquals(wrong.exit(), 1);
            assertTrue(wrong.out().contains("HTTP 401"), wrong.out() + wrong.err());
        }
    }

    @Test
    public void aBundleThatCannotRunSaysWhy() throws Exception {
        Said missing = kettle("run", "no-such-bundle");
        assertEquals(missing.exit(), 2);
        assertTrue(missing.err().contains("there is no bundle at no-such-bundle"), missing.err());
        Path folder = Files.createTempDirectory("bundle");
        DemoBundle.write(folder);
        Path flow = folder.resolve("flow.json");
        Files.writeString(flow, Files.readString(flow).replace("$loan/loan_no", "$loan/load_no"));
        Said wrong = kettle("run", folder.toString());
        assertEquals(wrong.exit(), 2);
        assertTrue(wrong.err().contains("$loan/load_no is not a field of the dataset any more"), wrong.err());
    }

    @Test
    public void checkPrintsTheProblemsOfABundleAndNothingElse() throws Exception {
        Said sound = kettle("check", "../demo/bundle/check-borrowers");
        assertEquals(sound.exit(), 0, sound.err());
        assertTrue(sound.out().contains("has no problems"), sound.out());
        Path folder = Files.createTempDirectory("bundle");
        DemoBundle.write(folder);
        Path flow = folder.resolve("flow.json");
        Files.writeString(flow, Files.readString(flow).replace("$loan/loan_no", "$loan/load_no"));
        Said wrong = kettle("check", folder.toString());
        assertEquals(wrong.exit(), 1);
        assertTrue(wrong.err().contains("$loan/load_no is not a field of the dataset any more"), wrong.err());
        assertEquals(kettle("check", "no-such-bundle").exit(), 2);
    }

    /** Hands calls on to a service, and holds back all that come after the first so many until it is let go. */
    private static HttpServer holdingBack(String address, int after, CountDownLatch holds, CountDownLatch letGo)
            throws IOException {
        HttpClient client = HttpClient.newHttpClient();
        AtomicLong calls = new AtomicLong();
        HttpServer server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newCachedThreadPool());
        server.createContext("/", exchange -> {
            try (exchange) {
                byte[] request = exchange.getRequestBody().readAllBytes();
                if (calls.incrementAndGet() > after) {
                    holds.countDown();
                    letGo.await();
                }
                HttpResponse<byte[]> answer = client.send(
                        HttpRequest.newBuilder(URI.create(address))
                                .header(
                                        "Content-Type",
                                        exchange.getRequestHeaders().getFirst("Content-Type"))
                                .header(
                                        "SOAPAction",
                                        exchange.getRequestHeaders().getFirst("SOAPAction"))
                                .POST(HttpRequest.BodyPublishers.ofByteArray(request))
                                .build(),
                        HttpResponse.BodyHandlers.ofByteArray());
                exchange.getResponseHeaders()
                        .set(
                                "Content-Type",
                                answer.headers().firstValue("Content-Type").orElseThrow());
                exchange.sendResponseHeaders(answer.statusCode(), answer.body().length);
                exchange.getResponseBody().write(answer.body());
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        });
        server.start();
        return server;
    }

    @Test
    public void aRunThatWasKilledGoesOnFromItsLedgerWithTheSameBytes() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path folder = Files.createTempDirectory("resumed");
            String bundle = "../demo/bundle/check-borrowers";
            String service = "Institution Register=" + world.address("register");
            String at = "2026-11-23T09:14:02Z";
            Path whole = folder.resolve("whole.csv");
            kettle("run", bundle, "--at", at, "--endpoint", service, "--out", "borrowers=" + whole);
            CountDownLatch holds = new CountDownLatch(1);
            CountDownLatch letGo = new CountDownLatch(1);
            HttpServer proxy = holdingBack(world.address("register"), 120, holds, letGo);
            Path out = folder.resolve("borrowers.csv");
            Path ledger = folder.resolve("run.ledger");
            String[] run = {
                "run",
                bundle,
                "--at",
                at,
                "--endpoint",
                "Institution Register=http://127.0.0.1:" + proxy.getAddress().getPort() + "/",
                "--out",
                "borrowers=" + out,
                "--ledger",
                ledger.toString()
            };
            Process killed = started(folder.resolve("err.txt"), run);
            holds.await();
            killed.destroyForcibly().waitFor();
            letGo.countDown();
            assertFalse(Files.exists(out), "half a file is in the target's place");

            Said begunAgain = kettle(run);
            assertEquals(begunAgain.exit(), 2);
            assertTrue(begunAgain.err().contains("--resume"), begunAgain.err());
            long before = world.register().received();
            String[] resume = Arrays.copyOf(run, run.length + 1);
            resume[run.length] = "--resume";
            Said resumed = kettle(resume);
            proxy.stop(0);
            assertEquals(resumed.exit(), 1, resumed.err());
            assertTrue(
                    resumed.out().startsWith("240 read, 230 done, 10 rejected, 0 in doubt, 230 rows"), resumed.out());
            assertEquals(Files.readString(out), Files.readString(whole));
            long again = world.register().received() - before;
            assertTrue(again < 237, again + " calls: all were made again");
            Said ended = kettle(resume);
            assertEquals(ended.exit(), 2, ended.out());
            assertTrue(ended.err().contains("ended"), ended.err());
        }
    }

    @DataProvider
    public Object[][] monsters() {
        return new Object[][] {{"<a>", "too-deep"}, {"<a b='", "not-well-formed"}, {"<a/>", "not-well-formed"}};
    }

    /** A gigabyte of nesting is refused without being read into memory as a tree. */
    @Test(dataProvider = "monsters")
    public void aMonsterIsRefusedWithPlaceAndReason(String piece, String code) throws Exception {
        Path file = Files.createTempFile("monster", ".wsdl");
        long bytes = code.equals("too-deep") ? 1L << 30 : 8L << 20;
        String block = piece.repeat((1 << 20) / piece.length());
        try (BufferedWriter out = Files.newBufferedWriter(file)) {
            for (long written = 0; written < bytes; written += block.length()) {
                out.write(block);
            }
        }
        Said said = kettle("inspect", "--json", file.toString());
        Files.delete(file);
        assertEquals(said.exit(), 2, said.err());
        JsonNode finding =
                new ObjectMapper().readTree(said.out()).get("findings").get(0);
        assertEquals(finding.get("code").asText(), code, said.out());
        assertEquals(finding.get("line").asInt(), 1);
    }

    @Test
    public void aBundleWithCodeTablesGroupedRowsAndSeveralOutputsRunsFromAShell() throws Exception {
        try (DemoWorld world = new DemoWorld(0)) {
            Path folder = Files.createTempDirectory("bookings");
            Path loans = folder.resolve("loans.csv");
            Files.write(loans, DemoWorld.resource("data/loans.csv"));
            CsvLook.Seen seen = CsvLook.look(loans, CsvLook.shape(loans));
            Map<String, DatasetSpec> datasets = new TreeMap<>();
            datasets.put(
                    "loans",
                    new DatasetSpec(
                            "loans", DatasetSpec.Kind.CSV, "loans.csv", seen.shape(), null, null, null, seen.layout()));
            for (String name : List.of("bookings", "booked crates", "refused bookings")) {
                datasets.put(
                        name, new DatasetSpec(name, DatasetSpec.Kind.CSV, name + ".csv", null, null, null, null, null));
            }
            // what is not in the table is refused, and told so
            CodeTable climate = new CodeTable(
                    "climate classes",
                    null,
                    Stream.of("A", "B1", "B2")
                            .map(c -> new CodeTable.Entry(c, c, null, null))
                            .toList());
            FlowBundle bundle = new FlowBundle(
                    FlowFile.parse(
                            new String(DemoWorld.resource("flows/book-transports.json"), StandardCharsets.UTF_8)),
                    Map.of("Vanline Desk", ContractReader.read(DemoWorld.vanlineDocuments(), true)),
                    datasets,
                    Map.of("Vanline Desk", new EndpointSpec("Vanline Desk", world.address("vanline"))),
                    Map.of("climate classes", climate),
                    Map.of());
            Path zip = folder.resolve("bookings.zip");
            Files.write(zip, bundle.zip());
            List<String> arguments = new ArrayList<>(
                    List.of("run", zip.toString(), "--json", "--limit", "30", "--in", "loans=" + loans));
            for (String name : List.of("bookings", "booked crates", "refused bookings")) {
                arguments.addAll(List.of("--out", name + "=" + folder.resolve(name + ".csv")));
            }
            Said said = kettle(arguments.toArray(String[]::new));
            JsonNode report = new ObjectMapper().readTree(said.out());
            int written = report.get("done").asInt();
            int rejected = report.get("rejected").asInt();
            assertEquals(written + rejected, 30, said.toString());
            assertTrue(written > 0 && rejected > 0, said.toString());
            assertEquals(said.exit(), 1);
            assertEquals(report.get("causes").size(), 1, said.out());
            assertTrue(said.out().contains("has no entry in the code table climate classes"), said.out());
            assertEquals(Files.readAllLines(folder.resolve("bookings.csv")).size(), written + 1);
            assertEquals(
                    Files.readAllLines(folder.resolve("refused bookings.csv")).size(), rejected + 1);
            List<String> crates = Files.readAllLines(folder.resolve("booked crates.csv"));
            assertEquals(crates.size() - 1, report.get("rows").asInt() - written - rejected);
        }
    }

    /** Answers every call with an attachment of zeros and counts what was sent; neither is ever whole in memory. */
    private static HttpServer labelling(long bytes, AtomicLong received) throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.createContext("/", exchange -> {
            byte[] buffer = new byte[1 << 16];
            for (int read = 0; read >= 0; read = exchange.getRequestBody().read(buffer)) {
                received.addAndGet(read);
            }
            String root = "<e:Envelope xmlns:e='http://schemas.xmlsoap.org/soap/envelope/'><e:Body><LabelCrateResponse"
                    + " xmlns='urn:halewick:vanline:2'><crateNumber>HC-1</crateNumber><photographBytes>0"
                    + "</photographBytes><label><i:Include xmlns:i='http://www.w3.org/2004/08/xop/include'"
                    + " href='cid:label@x'/></label></LabelCrateResponse></e:Body></e:Envelope>";
            String head = "--b\r\nContent-ID: <root@x>\r\n\r\n" + root
                    + "\r\n--b\r\nContent-ID: <label@x>\r\nContent-Type: application/pdf\r\n\r\n";
            exchange.getResponseHeaders().set("Content-Type", "multipart/related; boundary=b");
            exchange.sendResponseHeaders(200, 0);
            try (OutputStream out = exchange.getResponseBody()) {
                out.write(head.getBytes(StandardCharsets.UTF_8));
                for (long left = bytes; left > 0; left -= buffer.length) {
                    out.write(new byte[(int) Math.min(left, buffer.length)]);
                }
                out.write("\r\n--b--\r\n".getBytes(StandardCharsets.UTF_8));
            }
        });
        server.start();
        return server;
    }

    private static final long LARGE = 400L << 20;

    @DataProvider
    public Object[][] ways() {
        return new Object[][] {{true, LARGE}, {false, LARGE * 4 / 3}};
    }

    /** The files are larger than all the memory of the process: 400 MB each way in 256 MB. */
    @Test(dataProvider = "ways")
    public void aFileLargerThanTheMemoryIsSentAndOneIsKept(boolean mtom, long least) throws Exception {
        Path home = Files.createTempDirectory("labels");
        Path photographs = Files.createDirectories(home.resolve("photographs"));
        try (RandomAccessFile photograph =
                new RandomAccessFile(photographs.resolve("HC-1.png").toFile(), "rw")) {
            photograph.setLength(LARGE);
        }
        AtomicLong received = new AtomicLong();
        HttpServer server = labelling(LARGE, received);
        try {
            Map<String, DatasetSpec> datasets = new TreeMap<>();
            for (String name : List.of("crate photographs", "crate labels")) {
                datasets.put(
                        name,
                        new DatasetSpec(
                                name, DatasetSpec.Kind.FOLDER, name, null, null, null, null, FolderSource.LAYOUT));
            }
            datasets.put(
                    "labelled crates",
                    new DatasetSpec(
                            "labelled crates", DatasetSpec.Kind.CSV, "labelled.csv", null, null, null, null, null));
            EndpointSettings settings = new EndpointSettings(
                    new EndpointSettings.Limits(null, 120_000, 120_000, null, null),
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    false,
                    mtom);
            String address = "http://127.0.0.1:" + server.getAddress().getPort() + "/";
            FlowBundle bundle = new FlowBundle(
                    FlowFile.parse(new String(DemoWorld.resource("flows/label-crates.json"), StandardCharsets.UTF_8)),
                    Map.of("Vanline Desk", ContractReader.read(DemoWorld.vanlineDocuments(), true)),
                    datasets,
                    Map.of(
                            "Vanline Desk with attachments",
                            new EndpointSpec("Vanline Desk with attachments", address, null, settings)),
                    Map.of(),
                    Map.of());
            Path zip = home.resolve("label.zip");
            Files.write(zip, bundle.zip());
            Said said = kettle(
                    "run",
                    zip.toString(),
                    "--json",
                    "--in",
                    "crate photographs=" + photographs,
                    "--out",
                    "crate labels=" + home.resolve("kept"),
                    "--out",
                    "labelled crates=" + home.resolve("labelled.csv"));
            assertEquals(said.exit(), 0, said.toString());
            assertTrue(received.get() > least, received + " bytes came");
            assertEquals(Files.size(home.resolve("kept/HC-1.svg")), LARGE);
            assertEquals(Files.readAllLines(home.resolve("labelled.csv")).get(1), "HC-1,0,HC-1.svg");
        } finally {
            server.stop(0);
            try (Stream<Path> all = Files.walk(home)) {
                for (Path file : all.sorted(Comparator.reverseOrder()).toList()) {
                    Files.delete(file);
                }
            }
        }
    }
}
