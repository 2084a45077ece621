package wirekettle.demo;

import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.util.List;
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
    private final SimulatorHost host;
    private final Simulator register;
    private final Simulator vanline;
    private final SimulatorHost.Knobs registerKnobs;
    private final SimulatorHost.Knobs vanlineKnobs;

    /** Starts all services; port 0 takes a free one. */
    public DemoWorld(int port) throws IOException {
        register = simulator("register", "institutions.xml", registerDocuments());
        vanline = simulator("vanline", "transports.xml", vanlineDocuments());
        host = new SimulatorHost(port);
        registerKnobs = host.add("register", register);
        vanlineKnobs = host.add("vanline", vanline);
    }

    /** Returns the documents of the Institution Register. */
    public static GivenDocuments registerDocuments() throws IOException {
        return new GivenDocuments()
                .add("InstitutionRegister.wsdl", resource("register/InstitutionRegister.wsdl"))
                .add("register-types.xsd", resource("register/register-types.xsd"))
                .add("register-address.xsd", resource("register/register-address.xsd"));
    }

    /** Returns the documents of Vanline Desk. */
    public static GivenDocuments vanlineDocuments() throws IOException {
        return new GivenDocuments().add("VanlineDesk.wsdl", resource("vanline/VanlineDesk.wsdl"));
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

    /** Returns the address of a service, {@code register} or {@code vanline}. */
    public String address(String service) {
        return host.address(service);
    }

    /** Returns the Institution Register. */
    public Simulator register() {
        return register;
    }

    /** Returns Vanline Desk. */
    public Simulator vanline() {
        return vanline;
    }

    /** Returns how the Institution Register misbehaves. */
    public SimulatorHost.Knobs registerKnobs() {
        return registerKnobs;
    }

    /** Returns how Vanline Desk misbehaves. */
    public SimulatorHost.Knobs vanlineKnobs() {
        return vanlineKnobs;
    }

    @Override
    public void close() {
        host.close();
    }
}
