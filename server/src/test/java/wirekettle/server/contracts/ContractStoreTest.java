package wirekettle.server.contracts;

import static org.testng.Assert.assertEquals;
import static org.testng.Assert.assertNotEquals;
import static org.testng.Assert.assertNull;
import static org.testng.Assert.assertSame;
import static org.testng.Assert.assertTrue;
import static org.testng.Assert.expectThrows;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.function.UnaryOperator;
import org.testng.annotations.AfterMethod;
import org.testng.annotations.BeforeMethod;
import org.testng.annotations.Test;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Operation;
import wirekettle.server.Database;
import wirekettle.server.web.Problem;

public class ContractStoreTest {
    private Database database;
    private ContractStore store;
    private Contract register;

    @BeforeMethod
    public void open() throws Exception {
        database = Database.open();
        store = Contracts.over(database);
        register = Contracts.register(UnaryOperator.identity());
    }

    @AfterMethod(alwaysRun = true)
    public void close() throws Exception {
        database.close();
    }

    private static List<String> operations(Contract contract) {
        return contract.operations().stream()
                .map(offered -> offered.operation().key())
                .toList();
    }

    @Test
    public void aServerThatStartsAgainReadsTheContractAsItWas() {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        Contract again = Contracts.over(database).get(id);
        assertEquals(operations(again), operations(register));
        assertEquals(again.findings(), register.findings());
        assertSame(store.get(id), store.get(id));
    }

    @Test
    public void aNameThatIsTakenGetsANumber() {
        store.add(register, "Institution Register", "pasted", "ada");
        long second = store.add(register, "Institution Register", "pasted", "ada");
        assertEquals(database.mapper(ContractMapper.class).byId(second).name(), "Institution Register 2");
    }

    @Test
    public void documentsThatAreTheSameAreKeptOnce() throws Exception {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        assertEquals(database.value("select count(*) from document"), "3");
        Contract later = Contracts.register(text -> text.replace("insuredLimit", "insuredMost"));
        assertEquals(store.revise(id, 1, later, "pasted", "bo"), 2);
        assertEquals(database.value("select count(*) from document"), "4");
        assertEquals(database.value("select count(*) from contract_document"), "6");
    }

    @Test
    public void revisionsStayAndTheLastIsInUse() throws Exception {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        String before = store.hash("Institution Register");
        Contract later = Contracts.register(text -> text.replace("insuredLimit", "insuredMost"));
        store.revise(id, 1, later, "pasted", "bo");
        assertNotEquals(store.hash("Institution Register"), before);
        assertTrue(text(store.get(id)).contains("insuredMost"));
        assertTrue(text(store.get(id, 1)).contains("insuredLimit"));
        expectThrows(Problem.class, () -> store.get(id, 3));
    }

    private static String text(Contract contract) {
        StringBuilder text = new StringBuilder();
        contract.documents().forEach(each -> text.append(new String(each.bytes(), StandardCharsets.UTF_8)));
        return text.toString();
    }

    @Test
    public void whoComparedWithAnOlderRevisionIsTold() throws Exception {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        store.revise(id, 1, register, "pasted", "bo");
        Problem late = expectThrows(Problem.class, () -> store.revise(id, 1, register, "pasted", "cy"));
        assertTrue(late.getMessage().contains("compare again"), late.getMessage());
    }

    @Test
    public void anEffectIsAsPeopleConfirmedItElseAsItsNameSuggests() {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        Operation lookUp = register.operations().stream()
                .map(Contract.Offered::operation)
                .filter(operation -> operation.key().equals("LookUpInstitution"))
                .findFirst()
                .orElseThrow();
        assertEquals(store.effect("Institution Register", lookUp), "reads");
        ContractMapper mapper = database.mapper(ContractMapper.class);
        mapper.confirm(id, lookUp.key(), "changes", "ada");
        mapper.confirm(id, lookUp.key(), "reads", "ada");
        mapper.confirm(id, lookUp.key(), "changes", "bo");
        assertEquals(store.effect("Institution Register", lookUp), "changes");
    }

    @Test
    public void whatIsRemovedIsGoneFromMemoryToo() {
        long id = store.add(register, "Institution Register", "pasted", "ada");
        store.get(id);
        store.remove(id);
        expectThrows(Problem.class, () -> store.get(id));
        expectThrows(Problem.class, () -> store.get(id, 1));
        assertNull(store.byName("Institution Register"));
        assertEquals(store.hash("Institution Register"), "");
    }
}
