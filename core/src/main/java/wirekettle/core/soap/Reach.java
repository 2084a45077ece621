package wirekettle.core.soap;

import java.time.Clock;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.soap.security.Secrets;

/**
 * All it takes to reach an endpoint in one environment.
 *
 * @param address where it is
 * @param settings what reaching it takes
 * @param secrets where the secrets the settings name come from
 * @param masking hides those secrets in what is shown and kept
 * @param clock tells the time for timestamps
 * @param folders where the files messages send come from, and contents of replies go
 */
public record Reach(
        String address, EndpointSettings settings, Secrets secrets, Masking masking, Clock clock, Folders folders) {
    /** An address that takes nothing special. */
    public static Reach plain(String address) {
        return new Reach(address, EndpointSettings.PLAIN, Secrets.NONE, new Masking(), Clock.systemUTC(), Folders.NONE);
    }

    /** Returns this reach with folders. */
    public Reach with(Folders others) {
        return new Reach(address, settings, secrets, masking, clock, others);
    }

    /**
     * Returns how an endpoint is reached, with every secret it uses hidden.
     *
     * @throws Secrets.SecretMissing when the settings name a secret that does not exist
     */
    public static Reach of(String address, EndpointSettings settings, Secrets secrets, Clock clock) {
        Masking masking = new Masking();
        for (String name : settings.secrets()) {
            boolean key = name.equals(settings.tls().clientKey())
                    || name.equals(settings.security().signKey());
            if (key) {
                // read now, so that a key that cannot be used is told before anything is prepared
                secrets.key(name);
            } else {
                masking.hide(secrets.text(name));
            }
        }
        EndpointSettings.Login login = settings.login();
        if (login.user() != null && login.secret() != null) {
            masking.hidePair(login.user(), secrets.text(login.secret()));
        }
        if (settings.proxy() != null && settings.proxy().secret() != null) {
            masking.hidePair(
                    settings.proxy().user(), secrets.text(settings.proxy().secret()));
        }
        return new Reach(address, settings, secrets, masking, clock, Folders.NONE);
    }
}
