package wirekettle.core.soap.security;

import java.util.Map;

/** Where the values of secrets come from while a call is prepared. */
public interface Secrets {
    /** Knows no secret. */
    Secrets NONE = name -> {
        throw new SecretMissing(name);
    };

    /**
     * Gives a placeholder for every name: for simulators, which show everything they receive.
     */
    Secrets STAND_INS = name -> "stand-in-for-" + name;

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

    /**
     * Returns these secrets for what is sent to one place only: a secret that may not be sent there is not given.
     *
     * @param destination host and port, as in {@code register.invalid:443}; null for a place that has none
     */
    default Secrets sentTo(String destination) {
        return this;
    }

    /** Returns what fills get, where other secrets stand for those they name; the same unless said otherwise. */
    default Secrets ofFills() {
        return this;
    }

    /** Returns these secrets with others standing for those that fills name; settings get what they name. */
    default Secrets withStandIns(Map<String, String> standIns) {
        return new StandInSecrets(this, standIns);
    }

    /** A setting that names a secret which cannot be used. */
    class SecretMissing extends RuntimeException {
        /** A secret nobody wrote yet. */
        public SecretMissing(String name) {
            super("there is no secret “" + name + "”: add it in Settings, Secrets");
        }

        SecretMissing(String name, String why) {
            super("the secret “" + name + "” cannot be used as a key: " + why);
        }

        private SecretMissing(SecretElsewhere.Place place) {
            super("the secret “" + place.name() + "” may not be sent to "
                    + (place.destination() == null ? "an address without a host" : place.destination())
                    + ": allow it in Settings, Secrets");
        }
    }

    /** A secret that may not be sent where it is wanted. */
    final class SecretElsewhere extends SecretMissing {
        private final transient Place place;

        private record Place(String name, String destination) {}

        /** A secret of some name wanted at a host and port it may not be sent to. */
        public SecretElsewhere(String name, String destination) {
            super(new Place(name, destination));
            place = new Place(name, destination);
        }

        /** Returns the secret's name. */
        public String name() {
            return place.name();
        }

        /** Returns the host and port it may not be sent to. */
        public String destination() {
            return place.destination();
        }
    }
}
