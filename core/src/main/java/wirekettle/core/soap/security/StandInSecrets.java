package wirekettle.core.soap.security;

import java.util.Map;

/**
 * Secrets where others stand for those that fills name.
 *
 * @param standIns the name of the secret that is sent, by the name a fill has
 */
record StandInSecrets(Secrets given, Map<String, String> standIns) implements Secrets {
    @Override
    public String text(String name) {
        return given.text(name);
    }

    @Override
    public KeyMaterial key(String name) {
        return given.key(name);
    }

    @Override
    public Secrets sentTo(String destination) {
        return new StandInSecrets(given.sentTo(destination), standIns);
    }

    @Override
    public Secrets ofFills() {
        return name -> given.text(standIns.getOrDefault(name, name));
    }
}
