package wirekettle.core.soap.security;

/** Where the values of secrets come from while a call is prepared. */
public interface Secrets {
    /** Knows no secret. */
    Secrets NONE = name -> {
        throw new SecretMissing(name);
    };

    /** Returns a secret's value as it was written; throws {@link SecretMissing} when there is none of that name. */
    String text(String name);

    /** Returns a key with its certificates; throws {@link SecretMissing} when there is none of that name. */
    default KeyMaterial key(String name) {
        try {
            return KeyMaterial.ofPem(text(name));
        } catch (KeyUnreadable e) {
            throw new SecretMissing(name, e.getMessage());
        }
    }

    /** A setting that names a secret which cannot be used. */
    final class SecretMissing extends RuntimeException {
        /** A secret nobody wrote yet. */
        public SecretMissing(String name) {
            super("there is no secret “" + name + "”: add it in Settings, Secrets");
        }

        SecretMissing(String name, String why) {
            super("the secret “" + name + "” cannot be used as a key: " + why);
        }
    }
}
