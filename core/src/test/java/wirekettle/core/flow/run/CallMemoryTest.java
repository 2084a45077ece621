package wirekettle.core.flow.run;

import static org.testng.Assert.assertFalse;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.assertTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.CompletableFuture;
import org.testng.annotations.Test;
import wirekettle.core.value.Content;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;

public class CallMemoryTest {
    private static final byte[] REQUEST = "<track>VD-1</track>".getBytes(java.nio.charset.StandardCharsets.UTF_8);
    private static final Node REPLY =
            Node.build(Name.of("reply")).add("status", "fine").done();

    private final CallMemory memory = new CallMemory(0);

    /** Another record that sends the same request meanwhile. */
    private CompletableFuture<Node> another() {
        return CompletableFuture.supplyAsync(() -> {
            CallMemory.Entry entry = memory.entry(REQUEST);
            assertFalse(entry.mine());
            try {
                return entry.waitFor(() -> false);
            } catch (Stopped e) {
                throw new IllegalStateException(e);
            }
        });
    }

    @Test
    public void whoSendsTheSameRequestGetsTheAnswerOfTheFirst() {
        CallMemory.Entry first = memory.entry(REQUEST);
        assertTrue(first.mine());
        CompletableFuture<Node> second = another();
        memory.keep(first, REPLY);
        memory.release(first);
        assertSame(second.join(), REPLY);
    }

    @Test
    public void aFailureIsNobodyElsesAnswer() {
        CallMemory failing = new CallMemory(60);
        CallMemory.Entry first = failing.entry(REQUEST);
        failing.release(first);
        assertTrue(failing.entry(REQUEST).mine(), "the next one asks the service");
    }

    @Test
    public void aReplyWithAnAttachmentInAFileIsNotKept() throws Exception {
        Path file = Files.createTempFile("part", null);
        Node label = Node.leaf("label", "").holding(Content.of(file));
        CallMemory own = new CallMemory(0);
        CallMemory.Entry first = own.entry(REQUEST);
        own.keep(first, Node.build(Name.of("reply")).add(label).done());
        own.release(first);
        assertNull(first.waitFor(() -> false));
        Files.delete(file);
        assertTrue(own.entry(REQUEST).mine());
    }
}
