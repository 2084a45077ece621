package wirekettle.server.signin;

import jakarta.enterprise.context.RequestScoped;
import wirekettle.server.web.Problem;

/** Who makes the request now, and what of it depends on more than the path. */
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

    /** Returns the name of the person signed in. */
    public String name() {
        return person.name();
    }

    /** Refuses unless the person has a right. */
    void must(Right right) {
        if (right != Right.NONE && (person == null || !person.may(right))) {
            throw refused(
                    switch (right) {
                        case BUILD -> "build: make and change contracts, datasets, flows and simulators";
                        case RUN -> "run: call services and start runs";
                        default -> "manage: secrets, endpoints, hosts, connections and people";
                    });
        }
    }

    private static Problem refused(String what) {
        return new Problem(
                403,
                "not-allowed",
                "You do not have the right to " + what + ". Ask someone who manages people for it.");
    }

    /** Tells whether the person may call services and start runs in an environment. */
    public boolean mayRunIn(String environment) {
        return person != null && person.run().contains(environment);
    }

    /** Refuses unless the person may call services and start runs in an environment. */
    public void mustRunIn(String environment) {
        if (!mayRunIn(environment)) {
            throw refused("run in " + environment);
        }
    }

    /** Refuses to remove or change what somebody else made, unless the person manages. */
    public void mustOwn(String madeBy, String what) {
        if (madeBy == null) {
            throw Problem.missing("thing");
        }
        if (person == null || !person.manage() && !person.name().equals(madeBy)) {
            throw new Problem(
                    403,
                    "not-yours",
                    what + " was made by " + (madeBy.isBlank() ? "somebody else" : madeBy)
                            + ": only they and people who manage can do this.");
        }
    }
}
