using Microsoft.AspNetCore.Identity;
using PostTide.StandIns.Saltmarrow;
using PostTide.Store;
using PostTide.Store.Records;

namespace PostTide.Cli.Demo;

/// <summary>Sets up the Saltmarrow Harbour Office: people, mailboxes, queues, lists, templates, destinations and workflows.</summary>
internal sealed class DemoSetup(PostTideContext db, UserManager<Person> people, RoleManager<IdentityRole<long>> roles, FileStore files)
{
    /// <summary>The password of every demo account; the demo listens on loopback only.</summary>
    public const string Password = "saltmarrow-demo";

    public static readonly (string Name, string Email, string[] Permissions)[] Accounts =
    [
        ("Nell Harbury", "nell@saltmarrow.example", ["builder", "desk", "checker", "keeper"]),
        ("Bram Okoye", "builder@saltmarrow.example", ["builder"]),
        ("Dilys Wren", "desk@saltmarrow.example", ["desk"]),
        ("Sten Ravn", "desk2@saltmarrow.example", ["desk"]),
        ("Carys Toll", "checker@saltmarrow.example", ["checker"]),
        ("Ketil Moe", "keeper@saltmarrow.example", ["keeper"]),
    ];

    private static readonly string[] QueueNames = ["Berthing desk", "Large berths", "Fuel dock", "Cargo papers", "Plant room", "Front office", "Sort by hand"];

    public async Task<IReadOnlyList<Mailbox>> SetUpAsync(string practice, DateTimeOffset begin, CancellationToken stop)
    {
        await AddPeopleAsync();
        var mailboxes = Office.Boxes.Select(b => new Mailbox
        {
            Name = b.Name,
            Addresses = [.. b.Addresses.Select(a => new MailboxAddress { Address = $"{a.User}@{Office.Domain}", Name = a.For })],
        }).ToList();
        var queues = QueueNames.Select((name, i) => new Queue { Name = name, Position = i }).ToList();
        var lists = DemoLists.All().ToList();
        var templates = await TemplatesAsync(stop);
        Destination[] destinations =
        [
            new() { Name = "Maintenance planner", Url = $"{practice}/records" },
            new() { Name = "Fuel ledger", Url = $"{practice}/records" },
            new() { Name = "Cargo register", Url = $"{practice}/records" },
            new() { Name = "Ledger", Url = $"{practice}/records" },
        ];
        db.AddRange(mailboxes);
        db.AddRange(queues);
        db.AddRange(lists);
        db.AddRange(templates);
        db.AddRange(destinations);
        var sorter = new Sorter { Name = DemoSorter.Name };
        db.Sorters.Add(sorter);
        db.DoNotMail.Add(new DoNotMailEntry { AddressOrDomain = "thornehale.example", AddedAt = begin });
        await db.SaveChangesAsync(stop);

        var names = new DemoNames(
            queues.ToDictionary(q => q.Name, q => q.Id), lists.ToDictionary(l => l.Name, l => l.Id), templates.ToDictionary(t => t.Name, t => t.Id),
            destinations.ToDictionary(d => d.Name, d => d.Id), sorter.Id);
        AddWorkflows(new DemoSheets(names), begin);
        await db.SaveChangesAsync(stop);
        return mailboxes;
    }

    private async Task AddPeopleAsync()
    {
        foreach (var permission in Permissions.All)
        {
            await roles.CreateAsync(new IdentityRole<long>(permission));
        }

        foreach (var (name, email, permissions) in Accounts)
        {
            var person = new Person { UserName = email, Email = email, DisplayName = name };
            var made = await people.CreateAsync(person, Password);
            if (!made.Succeeded)
            {
                throw new InvalidOperationException(string.Join(' ', made.Errors.Select(e => e.Description)));
            }

            await people.AddToRolesAsync(person, permissions);
        }
    }

    private void AddWorkflows(DemoSheets sheets, DateTimeOffset begin)
    {
        foreach (var ((name, editions), position) in sheets.All().Select((w, i) => (w, i)))
        {
            var workflow = new Workflow { Name = name, Position = position };
            for (var i = 0; i < editions.Length; i++)
            {
                var last = i == editions.Length - 1;
                var since = begin.AddDays(-60 + 30 * i);
                workflow.Editions.Add(new WorkflowEdition
                {
                    Number = i + 1,
                    State = last ? EditionState.Live : EditionState.Past,
                    Sheet = editions[i],
                    ChangedAt = since,
                    ChangedBy = "Bram Okoye",
                    LiveSince = since,
                    LiveUntil = last ? null : begin.AddDays(-60 + 30 * (i + 1)),
                });
            }

            db.Workflows.Add(workflow);
        }
    }

    private async Task<List<Template>> TemplatesAsync(CancellationToken stop)
    {
        var map = Files.Pdf("Visitor berths.pdf", "Saltmarrow Harbour", "Visitor berths: east pontoon, berths 1 to 24", "Depth at low water springs 2.1 m", "VHF channel 12, call sign Saltmarrow Harbour");
        return
        [
            new()
            {
                Name = "Berth request: received",
                Body = "Dear {{ sender_name }},\n\nthank you for your request “{{ subject }}”. It has the number {{ ticket }} and is with the berthing desk.\n"
                    + "We give out berths the day before arrival and will write to you then. The enclosed sheet shows where visitors lie.\n\nIf your arrival changes, simply answer this message.\n\nSaltmarrow Harbour Office",
                AttachmentName = map.Name,
                AttachmentSha256 = await files.WriteAsync(map.Bytes, stop),
            },
            new()
            {
                Name = "Large berth: received",
                Body = "Dear {{ sender_name }},\n\nwe have received your application of {{ date | date: \"%-d %B\" }} and entered it as {{ ticket }}.\n"
                    + "The harbour master decides on berths at the stone quay each morning at nine. Dues, pilotage and depth will be confirmed with the berth.\n\nSaltmarrow Harbour Office",
            },
            new()
            {
                Name = "Fuel order: received",
                Body = "Dear {{ sender_name }},\n\nyour order has reached the fuel dock. It is open from 8 to 18, on Sundays from 10 to 14. We write only if the time you named is taken.\n\nSaltmarrow fuel dock",
            },
            new()
            {
                Name = "Cargo papers: attachment missing",
                Body = "Dear {{ sender_name }},\n\nyour message “{{ subject }}” speaks of papers, but no file came with it. Please send it once more with the manifest attached.\n\nSaltmarrow Harbour Office, cargo papers",
            },
            new()
            {
                Name = "Complaint: received",
                Body = "Dear {{ sender_name }},\n\nthank you for telling us. We are sorry that you were disturbed. Your complaint has the number {{ ticket }}; somebody from the office will look into it and write to you within three working days.\n\nSaltmarrow Harbour Office",
            },
            new()
            {
                Name = "Event permit: what we need",
                Body = "Dear {{ sender_name }},\n\nthank you for your plans for the quay ({{ ticket }}). For a permit we need a sketch, the hours, the number of people expected, proof of insurance and the name of somebody who can be reached that day.\n\nSaltmarrow Harbour Office",
            },
        ];
    }
}
