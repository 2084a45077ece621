package wirekettle.server.limits;

import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertTrue;

import io.netty.buffer.Unpooled;
import io.netty.channel.embedded.EmbeddedChannel;
import java.nio.charset.StandardCharsets;
import java.util.concurrent.TimeUnit;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;

/** Half-sent requests, with a clock that is moved by hand. */
public class HeadInTimeTest {
    private static final String HEAD = "GET /api/flows HTTP/1.1\r\nHost: localhost\r\n\r\n";

    private EmbeddedChannel channel;

    @BeforeMethod
    public void connect() {
        channel = new EmbeddedChannel();
        channel.freezeTime();
        channel.pipeline().addLast(new HeadInTime(15));
        channel.pipeline().fireChannelActive();
    }

    private void says(String text) {
        channel.writeInbound(Unpooled.copiedBuffer(text, StandardCharsets.ISO_8859_1));
    }

    private void passes(int seconds) {
        channel.advanceTimeBy(seconds, TimeUnit.SECONDS);
        channel.runScheduledPendingTasks();
    }

    @Test
    public void aConnectionThatSaysNothingIsEnded() {
        passes(14);
        assertTrue(channel.isActive());
        passes(2);
        assertFalse(channel.isActive());
    }

    @Test
    public void halfAHeadIsEndedHoweverSlowlyItDrips() {
        for (int i = 0; i < 14; i++) {
            says(HEAD.substring(i, i + 1));
            passes(1);
            assertTrue(channel.isActive());
        }
        says("x");
        passes(2);
        assertFalse(channel.isActive());
    }

    @Test
    public void aWholeHeadMayBeWorkedOnForAsLongAsItTakes() {
        says(HEAD.substring(0, HEAD.length() - 2));
        says(HEAD.substring(HEAD.length() - 2));
        passes(3_600);
        assertTrue(channel.isActive());
    }

    @Test
    public void theNextHeadOfAConnectionHasItsOwnTime() {
        says(HEAD);
        channel.writeOutbound(Unpooled.copiedBuffer("HTTP/1.1 200 OK\r\n\r\n", StandardCharsets.ISO_8859_1));
        passes(60);
        assertTrue(channel.isActive(), "a connection that waits for its next request is left to others");
        says("GET /");
        passes(16);
        assertFalse(channel.isActive());
    }

    @Test
    public void whatIsEncryptedIsLeftAlone() {
        channel.writeInbound(Unpooled.wrappedBuffer(new byte[] {22, 3, 1, 0}));
        passes(60);
        assertTrue(channel.isActive());
    }
}
