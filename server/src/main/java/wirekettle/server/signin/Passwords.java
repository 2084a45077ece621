package wirekettle.server.signin;

import jakarta.enterprise.context.ApplicationScoped;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.Set;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;
import wirekettle.server.web.Problem;

/**
 * Passwords: which may be chosen, and hashing them a few at a time. One hash takes 16 MB and some tenths of a second,
 * so many people signing in at once wait for each other.
 */
@ApplicationScoped
public class Passwords {
    /** The shortest password. */
    static final int SHORTEST = 12;

    private static final int LONGEST = 256;
    private static final int AT_ONCE = 2;
    private static final int MOST_WAITING = 40;
    private static final Set<String> COMMON = common();
    /** A hash that no password matches, so that an unknown name takes as long as a wrong password. */
    private static final String NOBODY = Tokens.password(Tokens.random());

    private final Semaphore places = new Semaphore(AT_ONCE, true);
    private final AtomicInteger waiting = new AtomicInteger();

    private interface Work<T> {
        T done();
    }

    private static Set<String> common() {
        try (BufferedReader words = new BufferedReader(new InputStreamReader(
                Passwords.class.getResourceAsStream("/common-passwords.txt"), StandardCharsets.UTF_8))) {
            return words.lines().filter(line -> !line.startsWith("#")).collect(Collectors.toUnmodifiableSet());
        } catch (IOException e) {
            throw new IllegalStateException("the list of common passwords cannot be read", e);
        }
    }

    /** Refuses a password that is too short, too long or easily guessed for someone of a name. */
    void check(String password, String name) {
        if (password == null || password.length() < SHORTEST || password.length() > LONGEST) {
            throw new Problem(400, "weak-password", "A password has " + SHORTEST + " to " + LONGEST + " characters.");
        }
        if (common(password, name)) {
            throw new Problem(
                    400,
                    "weak-password",
                    "This password is among those that are tried first: take one of several words that only you would"
                            + " put together.");
        }
    }

    /** What is left of a password without what people put around and between the letters of a common one. */
    private static boolean common(String password, String name) {
        String small = password.toLowerCase(Locale.ROOT);
        if (small.chars().distinct().count() < 5) {
            return true;
        }
        String letters = plain(small).replaceAll("[^\\p{L}]", "");
        String bare = small.replaceAll("[^\\p{L}\\p{N}]", "");
        String core = small.replaceAll("^[^\\p{L}]+|[^\\p{L}]+$", "");
        return COMMON.contains(small)
                || COMMON.contains(bare)
                || COMMON.contains(letters)
                || COMMON.contains(plain(core))
                || letters.equals(name.toLowerCase(Locale.ROOT))
                || repeats(bare);
    }

    private static String plain(String text) {
        return text.replace('0', 'o')
                .replace('1', 'i')
                .replace('3', 'e')
                .replace('4', 'a')
                .replace('5', 's')
                .replace('@', 'a')
                .replace('$', 's')
                .replace('!', 'i');
    }

    /** Tells whether a text is one short piece again and again, or a run of neighbours. */
    private static boolean repeats(String text) {
        for (int length = 1; length <= 4 && length < text.length(); length++) {
            if (text.equals(
                    text.substring(0, length).repeat(text.length() / length + 1).substring(0, text.length()))) {
                return true;
            }
        }
        int neighbours = 0;
        for (int i = 1; i < text.length(); i++) {
            neighbours += Math.abs(text.charAt(i) - text.charAt(i - 1)) <= 1 ? 1 : 0;
        }
        return neighbours >= text.length() - 2;
    }

    /** Returns the hash of a password. */
    String hash(String password) {
        return queued(() -> Tokens.password(password));
    }

    /** Tells whether a password is the one of a hash; null is nobody's, and takes as long. */
    boolean matches(String password, String hash) {
        String given = password == null || password.length() > LONGEST ? "" : password;
        return queued(() -> Tokens.matches(given, hash == null ? NOBODY : hash)) && hash != null;
    }

    private <T> T queued(Work<T> work) {
        if (waiting.incrementAndGet() > MOST_WAITING) {
            waiting.decrementAndGet();
            throw busy();
        }
        try {
            if (!places.tryAcquire(20, TimeUnit.SECONDS)) {
                throw busy();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw busy();
        } finally {
            waiting.decrementAndGet();
        }
        try {
            return work.done();
        } finally {
            places.release();
        }
    }

    private static Problem busy() {
        return new Problem(429, "busy", "Too many people are signing in at this moment: try again in some seconds.");
    }
}
