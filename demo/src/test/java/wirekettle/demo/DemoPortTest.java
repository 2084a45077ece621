package wirekettle.demo;

import static org.testng.Assert.assertTrue;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import org.testng.annotations.Test;

/** The port of the simulated services is the one that could be taken, not one that looked free. */
public class DemoPortTest {
    @Test
    public void aPortTakenMeanwhileIsPassedOver() throws IOException {
        try (ServerSocket taken = new ServerSocket(0, 1, InetAddress.getByName("127.0.0.1"));
                DemoWorld world = Demo.world(taken.getLocalPort())) {
            assertTrue(world.port() > taken.getLocalPort(), "port " + world.port());
            assertTrue(world.address("register").contains(":" + world.port() + "/"), world.address("register"));
        }
    }
}
