package wirekettle.server;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import org.testng.annotations.Test;

/** Holds which way the server's packages depend. */
public class RoomsTest {
    private final JavaClasses server = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("wirekettle.server");

    @Test
    public void noPackageUsesOneThatUsesIt() {
        slices().matching("wirekettle.server.(*)..").should().beFreeOfCycles().check(server);
    }

    @Test
    public void whatIsBelowKnowsNothingOfFlows() {
        noClasses()
                .that()
                .resideInAnyPackage(
                        "..server.web..",
                        "..server.signin..",
                        "..server.hosts..",
                        "..server.secrets..",
                        "..server.contracts..",
                        "..server.datasets..",
                        "..server.settings..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage("..server.flows..", "..server.runs..", "..server.ledger..", "..server.bench..")
                .check(server);
    }
}
