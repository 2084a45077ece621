package wirekettle.server.ledger;

import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.nio.charset.StandardCharsets;
import wirekettle.server.secrets.Vault;

/** Texts as the ledger keeps them: what may be used again is sealed, what is shown is cut to a bearable length. */
@ApplicationScoped
public class LedgerTexts {
    private static final int MOST_TEXT = 1 << 20;
    private static final String SEALED_UNDER = "ledger";

    @Inject
    Vault vault;

    /** Seals what may be used again. */
    public byte[] sealed(String text) {
        return vault.seal(SEALED_UNDER, text);
    }

    /** Returns what was sealed. */
    String opened(byte[] sealed) {
        return vault.open(SEALED_UNDER, sealed);
    }

    static String text(byte[] bytes) {
        if (bytes == null) {
            return null;
        }
        int length = Math.min(bytes.length, MOST_TEXT);
        return clean(new String(bytes, 0, length, StandardCharsets.UTF_8));
    }

    /** The database cannot hold the character U+0000. */
    static String clean(String text) {
        return text == null ? null : text.replace('\u0000', '\uFFFD');
    }
}
