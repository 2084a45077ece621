package wirekettle.demo;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
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
    public static final List<String> SERVICES = List.of("register", "vanline", "climate", "clearance", "rates");

    private final SimulatorHost host;
    private final DemoPorts ports;
    private final Map<String, Simulator> simulators = new LinkedHashMap<>();
    private final Map<String, SimulatorHost.Knobs> knobs = new LinkedHashMap<>();

    /** Starts all services; port 0 takes a free one. */
    public DemoWorld(int port) throws IOException {
        simulators.put("register", simulator("register", "institutions.xml", registerDocuments()));
        simulators.put("vanline", simulator("vanline", "transports.xml", vanlineDocuments()));
        simulators.put("climate", simulator("climate", "rooms.xml", climateDocuments()));
        simulators.put("clearance", simulator("clearance", "none.xml", clearanceDocuments()));
        simulators.put("rates", simulator("rates", "zones.xml", ratesDocuments()));
        host = new SimulatorHost(port);
        simulators.forEach((name, simulator) -> knobs.put(name, host.add(name, simulator)));
        ports = new DemoPorts(host, simulators);
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

    /** Returns the documents of Rates. */
    public static GivenDocuments ratesDocuments() throws IOException {
        return documents("rates", "rates.json");
    }

    /**
     * Returns the documents of Vanline Desk as they are announced for next year: another namespace, one field gone, one
     * new, one narrower.
     */
    public static GivenDocuments vanlineNextYear() throws IOException {
        String wsdl = new String(resource("vanline/VanlineDesk.wsdl"), StandardCharsets.UTF_8)
                .replace("urn:halewick:vanline:2", "urn:halewick:vanline:3")
                .replace("<xs:element name=\"since\" type=\"xs:date\" minOccurs=\"0\"/>", "")
                .replace(
                        "<xs:maxLength value=\"16\"/></xs:restriction></xs:simpleType></xs:element>",
                        "<xs:maxLength value=\"12\"/></xs:restriction></xs:simpleType></xs:element>"
                                + "<xs:element name=\"language\" type=\"xs:language\" minOccurs=\"0\"/>");
        return new GivenDocuments().add("VanlineDesk.wsdl", wsdl.getBytes(StandardCharsets.UTF_8));
    }

    /**
     * Returns the documents of the Institution Register as they are announced for next year: another namespace, a
     * shorter number, one field gone, one new, one more purpose.
     */
    public static GivenDocuments registerNextYear() throws IOException {
        GivenDocuments next = new GivenDocuments();
        registerDocuments()
                .files()
                .forEach((name, bytes) -> next.add(
                        name,
                        new String(bytes, StandardCharsets.UTF_8)
                                .replace("urn:halewick:register:1", "urn:halewick:register:2")
                                .replace("<xs:maxLength value=\"20\"/>", "<xs:maxLength value=\"12\"/>")
                                .replace("<xs:element name=\"collectOn\" type=\"xs:date\" minOccurs=\"0\"/>", "")
                                .replace(
                                        "<xs:element name=\"insuredValue\"",
                                        "<xs:element name=\"currency\" type=\"xs:string\" minOccurs=\"0\"/>"
                                                + "<xs:element name=\"insuredValue\"")
                                .replace(
                                        "<xs:enumeration value=\"storage\"/>",
                                        "<xs:enumeration value=\"storage\"/><xs:enumeration value=\"repair\"/>")
                                .getBytes(StandardCharsets.UTF_8)));
        return next;
    }

    /** Puts the next version of Vanline Desk in the place of the present one. */
    public void turnTheYear() throws IOException {
        String rules = new String(resource("vanline/rules.json"), StandardCharsets.UTF_8)
                .replace("urn:halewick:vanline:2", "urn:halewick:vanline:3");
        Simulator next =
                simulator("vanline", rules.getBytes(StandardCharsets.UTF_8), "transports.xml", vanlineNextYear());
        simulators.put("vanline", next);
        host.replace("vanline", next);
    }

    private static Simulator simulator(String folder, String data, GivenDocuments documents) throws IOException {
        return simulator(folder, resource(folder + "/rules.json"), data, documents);
    }

    private static Simulator simulator(String folder, byte[] ruleFile, String data, GivenDocuments documents)
            throws IOException {
        try {
            Contract contract = ContractReader.read(documents, true);
            List<SimulatorRule> rules = new ObjectMapper().readValue(ruleFile, new TypeReference<>() {});
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

    /** Returns the ports that ask something of their callers. */
    public DemoPorts ports() {
        return ports;
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
        ports.close();
        host.close();
    }
}
