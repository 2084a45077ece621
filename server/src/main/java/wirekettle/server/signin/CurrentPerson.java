package wirekettle.server.signin;

import jakarta.enterprise.context.RequestScoped;
import wirekettle.server.web.Problem;

/** Who makes the request now. */
@RequestScoped
public class CurrentPerson {
    private Person person;

    void set(Person someone) {
        person = someone;
    }

    /** Returns the person signed in. */
    public Person get() {
        return person;
    }

    /** Refuses unless the person may allow hosts and manage people. */
    public void mustBeTrusted() {
        if (person == null || !person.mayAllowHosts()) {
            throw new Problem(403, "not-allowed", "Only people who may allow hosts can do this; ask one of them.");
        }
    }
}
