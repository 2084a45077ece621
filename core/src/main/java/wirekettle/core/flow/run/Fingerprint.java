package wirekettle.core.flow.run;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import wirekettle.core.value.Node;

/** A hash of everything in a record, the same for the same input. */
final class Fingerprint {
    private static final ThreadLocal<MessageDigest> DIGEST = ThreadLocal.withInitial(() -> {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    });

    private Fingerprint() {}

    static String of(Node record) {
        if (record == null) {
            return "";
        }
        MessageDigest digest = DIGEST.get();
        digest.reset();
        digest(record, digest);
        return HexFormat.of().formatHex(digest.digest(), 0, 12);
    }

    private static void digest(Node node, MessageDigest digest) {
        digest.update(node.name().local().getBytes(StandardCharsets.UTF_8));
        digest.update((byte) 1);
        digest.update(node.text().getBytes(StandardCharsets.UTF_8));
        digest.update((byte) 2);
        node.children().forEach(child -> digest(child, digest));
    }
}
