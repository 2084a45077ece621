package wirekettle.demo;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import wirekettle.connect.SimulatorHost;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractReader;
import wirekettle.core.contract.ContractRefused;
import wirekettle.core.contract.GivenDocuments;
import wirekettle.core.simulate.Simulator;
import wirekettle.core.simulate.SimulatorRule;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;
import wirekettle.core.xml.XmlLimits;
import wirekettle.core.xml.XmlProblem;

/** The outside services of Halewick Crating, simulated on loopback from their own contracts with rules. */
public final class DemoWorld implements AutoCloseable {
    /** The services by the path they are served under. */
    public static final List<String> SERVICES = List.of("register", "vanline", "climate", "clearance");

    private final SimulatorHost host;
    private final Map<String, Simulator> simulators = new LinkedHashMap<>();
    private final Map<String, SimulatorHost.Knobs> knobs = new LinkedHashMap<>();

    /** Starts all services; port 0 takes a free one. */
    public DemoWorld(int port) throws IOException {
        simulators.put("register", simulator("register", "institutions.xml", registerDocuments()));
        simulators.put("vanline", simulator("vanline", "transports.xml", vanlineDocuments()));
        simulators.put("climate", simulator("climate", "rooms.xml", climateDocuments()));
        simulators.put("clearance", simulator("clearance", "none.xml", clearanceDocuments()));
        host = new SimulatorHost(port);
        simulators.forEach((name, simulator) -> knobs.put(name, host.add(name, simulator)));
    }

    private static GivenDocuments documents(String folder, String... files) throws IOException {
        GivenDocuments given = new GivenDocuments();
        for (String file : files) {
            given.add(file, resource(folder + "/" + file));
        }
        return given;
    }

    /** Returns the documents of the Institution Register. */
    public static GivenDocuments registerDocuments() throws IOException {
        return documents("register", "InstitutionRegister.wsdl", "register-types.xsd", "register-address.xsd");
    }

    /** Returns the documents of Vanline Desk. */
    public static GivenDocuments vanlineDocuments() throws IOException {
        return documents("vanline", "VanlineDesk.wsdl");
    }

    /** Returns the documents of Gallery Climate. */
    public static GivenDocuments climateDocuments() throws IOException {
        return documents("climate", "GalleryClimate.wsdl");
    }

    /** Returns the documents of Loan Clearance. */
    public static GivenDocuments clearanceDocuments() throws IOException {
        return documents(
                "clearance",
                "LoanClearance.wsdl",
                "clearance.xsd",
                "papers/document.xsd",
                "papers/export-declaration.xsd",
                "papers/insurance-certificate.xsd",
                "papers/condition-report.xsd",
                "papers/loan-agreement.xsd");
    }

    private static Simulator simulator(String folder, String data, GivenDocuments documents) throws IOException {
        try {
            Contract contract = ContractReader.read(documents, true);
            List<SimulatorRule> rules =
                    new ObjectMapper().readValue(resource(folder + "/rules.json"), new TypeReference<>() {});
            Node tree =
                    NodeReader.read(new ByteArrayInputStream(resource(folder + "/" + data)), data, XmlLimits.DOCUMENTS);
            return new Simulator(contract, rules, tree);
        } catch (ContractRefused | XmlProblem e) {
            throw new IOException("the demo's own " + folder + " is broken: " + e.getMessage(), e);
        }
    }

    /** Returns a file of the demo world, by its path below {@code world/}. */
    public static byte[] resource(String path) throws IOException {
        try (InputStream in = DemoWorld.class.getResourceAsStream("/world/" + path)) {
            if (in == null) {
                throw new IOException("the demo has no " + path);
            }
            return in.readAllBytes();
        }
    }

    /** Returns the port the services listen on. */
    public int port() {
        return host.port();
    }

    /** Returns the address of a service, one of {@link #SERVICES}. */
    public String address(String service) {
        return host.address(service);
    }

    /** Returns the simulator of a service. */
    public Simulator simulator(String service) {
        return simulators.get(service);
    }

    /** Returns how a service misbehaves. */
    public SimulatorHost.Knobs knobs(String service) {
        return knobs.get(service);
    }

    /** Returns the Institution Register. */
    public Simulator register() {
        return simulator("register");
    }

    /** Returns Vanline Desk. */
    public Simulator vanline() {
        return simulator("vanline");
    }

    /** Returns how the Institution Register misbehaves. */
    public SimulatorHost.Knobs registerKnobs() {
        return knobs("register");
    }

    /** Returns how Vanline Desk misbehaves. */
    public SimulatorHost.Knobs vanlineKnobs() {
        return knobs("vanline");
    }

    @Override
    public void close() {
        host.close();
    }
}
