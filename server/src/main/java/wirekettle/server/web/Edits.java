package wirekettle.server.web;

/** What is checked whenever something with a name is added or changed. */
public final class Edits {
    private static final int MOST_NAME = 80;

    private Edits() {}

    /**
     * Returns a name without blanks around it.
     *
     * @param what what needs it, with its article: {@code A flow}
     * @throws Problem 400 when there is none, or it has more than 80 characters
     */
    public static String name(String what, String given) {
        String name = given == null ? "" : given.strip();
        if (name.isEmpty() || name.length() > MOST_NAME) {
            throw new Problem(400, "bad-name", what + " needs a name of at most " + MOST_NAME + " characters.");
        }
        return name;
    }

    /**
     * Refuses a name that something else of its kind has.
     *
     * @param what the kind, without an article
     * @param other what has the name, or null
     * @throws Problem 409
     */
    public static void free(String what, String name, Object other) {
        if (other != null) {
            throw new Problem(409, "name-taken", "There is already a " + what + " called “" + name + "”.");
        }
    }

    /**
     * Returns what a change is based on, as the header If-Match says it (RFC 9110 §13.1.1).
     *
     * @param what what it counts: {@code version}
     * @throws Problem 428 when it says nothing
     */
    public static int based(String what, String ifMatch) {
        try {
            return Integer.parseInt(String.valueOf(ifMatch).replace("\"", "").strip());
        } catch (NumberFormatException e) {
            throw new Problem(428, "if-match-missing", "If-Match must carry the " + what + " the change is based on.");
        }
    }

    /** Returns what is answered to a change that is based on something older than there is. */
    public static Problem meanwhile(String what, String by, int now, int based) {
        return new Problem(
                409,
                "changed-meanwhile",
                by + " saved " + what + " " + now + " meanwhile; yours is based on " + what + " " + based + ".");
    }
}
