package wirekettle.core;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import org.testng.annotations.Test;

/** Holds what core may know, and which way its packages depend. */
public class ArchitectureTest {
    private final JavaClasses core = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("wirekettle.core");

    @Test
    public void coreKnowsNoWebNoSqlAndNoInterface() {
        noClasses()
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "java.sql..",
                        "javax.sql..",
                        "jakarta..",
                        "io.quarkus..",
                        "org.apache.ibatis..",
                        "java.net.http..",
                        "com.sun.net.httpserver..",
                        "java.awt..",
                        "javax.swing..",
                        "wirekettle.connect..",
                        "wirekettle.server..")
                .check(core);
    }

    @Test
    public void packagesDependOnlyDownwards() {
        layeredArchitecture()
                .consideringOnlyDependenciesInLayers()
                .layer("xml")
                .definedBy("..core.xml..")
                .layer("value")
                .definedBy("..core.value..")
                .layer("schema")
                .definedBy("..core.schema..")
                .layer("contract")
                .definedBy("..core.contract..")
                .layer("soap")
                .definedBy("..core.soap..")
                .layer("mapping")
                .definedBy("..core.mapping..")
                .layer("flow")
                .definedBy("..core.flow..")
                .layer("simulate")
                .definedBy("..core.simulate..")
                .whereLayer("flow")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("simulate")
                .mayNotBeAccessedByAnyLayer()
                .whereLayer("mapping")
                .mayOnlyBeAccessedByLayers("flow", "simulate")
                .whereLayer("soap")
                .mayOnlyBeAccessedByLayers("mapping", "flow", "simulate")
                .whereLayer("contract")
                .mayOnlyBeAccessedByLayers("soap", "mapping", "flow", "simulate")
                .whereLayer("schema")
                .mayOnlyBeAccessedByLayers("contract", "soap", "mapping", "flow", "simulate")
                .check(core);
    }
}
