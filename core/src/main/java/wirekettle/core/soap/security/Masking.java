package wirekettle.core.soap.security;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import wirekettle.core.value.Content;
import wirekettle.core.value.Node;
import wirekettle.core.value.XmlText;

/**
 * Hides secrets in everything that is shown or kept: their values plain, escaped for XML, JSON or an address, and in
 * base64 alone or as the password behind a user name. Safe for several threads.
 */
public final class Masking {
    /** What stands where a secret stood. */
    public static final String MASK = "•••••";

    /** The shortest secret that can be written: a shorter one might stand in data that has nothing to do with it. */
    public static final int SHORTEST = 8;

    // older ones may be shorter: they are hidden in what is shown and kept, not in data
    private static final int SHORTEST_SHOWN = 4;

    // in a security header also what a password could be guessed from
    private static final Pattern DIGESTS = Pattern.compile("(<([\\w.-]+:)?Password\\b[^>]*>)[^<]+(</)");

    private static final byte[] PASSWORD = "Password".getBytes(StandardCharsets.US_ASCII);

    // replaced whole, so that a reader never sees half of it
    private volatile List<String> forms = List.of();
    private volatile List<String> inData = List.of();
    private final Set<String> known = ConcurrentHashMap.newKeySet();

    /** Hides nothing but what stands in security headers. */
    public Masking() {}

    /** Hides the given values. */
    public Masking(Collection<String> values) {
        values.forEach(this::hide);
    }

    /** Hides one more value from now on. */
    public void hide(String value) {
        if (value != null && !known.contains(value)) {
            hideNew(value);
        }
    }

    private synchronized void hideNew(String value) {
        if (value.length() < SHORTEST_SHOWN || known.contains(value)) {
            return;
        }
        known.add(value);
        if (value.length() >= SHORTEST) {
            inData = Stream.concat(Stream.of(value), inData.stream()).toList();
        }
        List<String> added = new ArrayList<>(List.of(
                value,
                XmlText.escape(value),
                value.replace("&", "&amp;")
                        .replace("<", "&lt;")
                        .replace(">", "&gt;")
                        .replace("\"", "&quot;"),
                value.replace("\\", "\\\\").replace("\"", "\\\""),
                URLEncoder.encode(value, StandardCharsets.UTF_8),
                URLEncoder.encode(value, StandardCharsets.UTF_8).replace("+", "%20")));
        added.addAll(base64(value));
        added.addAll(forms);
        // the longest first, so that no part of one is hidden before the whole
        forms = added.stream()
                .distinct()
                .sorted(Comparator.comparingInt(String::length).reversed())
                .toList();
    }

    /** Hides a password where it stands behind its user name in base64, as HTTP basic sends it. */
    public void hidePair(String user, String password) {
        String pair = (user == null ? "" : user) + ":" + password;
        hide(Base64.getEncoder().encodeToString(pair.getBytes(StandardCharsets.UTF_8)));
    }

    /** The parts of a base64 text that tell a value, wherever in the text it begins. */
    private static List<String> base64(String value) {
        byte[] bytes = value.getBytes(StandardCharsets.UTF_8);
        List<String> forms = new ArrayList<>();
        forms.add(Base64.getEncoder().encodeToString(bytes));
        for (int before = 0; before < 3; before++) {
            int usable = (before + bytes.length) / 3 * 3 - before;
            if (usable >= 6) {
                byte[] padded = new byte[before + usable];
                System.arraycopy(bytes, 0, padded, before, usable);
                String text = Base64.getEncoder().encodeToString(padded);
                // the first group also holds what stood before
                forms.add(before == 0 ? text : text.substring(4));
            }
        }
        forms.removeIf(form -> form.length() < 8);
        return forms;
    }

    /** Returns a text without any secret; null stays null. */
    public String mask(String text) {
        if (text == null) {
            return null;
        }
        String masked = text;
        for (String form : forms) {
            if (masked.contains(form)) {
                masked = masked.replace(form, MASK);
            }
        }
        return masked.contains("Password") ? DIGESTS.matcher(masked).replaceAll("$1" + MASK + "$3") : masked;
    }

    /** Tells whether there is anything to hide in data. */
    public boolean inData() {
        return !inData.isEmpty();
    }

    /** Returns a tree in which no value tells a secret; the same when none did. */
    public Node mask(Node node) {
        List<String> values = inData;
        return values.isEmpty() ? node : node.mapped(text -> maskData(text, values));
    }

    private static String maskData(String text, List<String> values) {
        String masked = text;
        for (String value : values) {
            if (masked.length() >= value.length() && masked.contains(value)) {
                masked = masked.replace(value, MASK);
            }
        }
        return masked;
    }

    /** Returns content of the same length in which no secret stands; the same when there is none to hide. */
    public Content mask(Content content) {
        List<String> values = inData;
        return values.isEmpty() ? content : new MaskedContent(content, values);
    }

    private static boolean holds(byte[] bytes, byte[] wanted) {
        for (int i = 0; i <= bytes.length - wanted.length; i++) {
            if (bytes[i] == wanted[0] && Arrays.equals(bytes, i, i + wanted.length, wanted, 0, wanted.length)) {
                return true;
            }
        }
        return false;
    }

    /** Returns UTF-8 bytes without any secret: the same array when there was none; null stays null. */
    public byte[] mask(byte[] bytes) {
        if (bytes == null || forms.isEmpty() && !holds(bytes, PASSWORD)) {
            return bytes;
        }
        String text = new String(bytes, StandardCharsets.UTF_8);
        String masked = mask(text);
        return masked.equals(text) ? bytes : masked.getBytes(StandardCharsets.UTF_8);
    }
}
