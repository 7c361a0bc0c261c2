namespace PostTide.StandIns.Saltmarrow;

/// <summary>How somebody writes.</summary>
public enum Manner
{
    Formal,
    Friendly,
    Terse,
    Hasty,
    PhoneTyped,
}

/// <summary>Somebody who writes to the harbour. All are made up.</summary>
public sealed record Writer(string Name, string Address, Manner Manner, string Signature, bool Html = false);

/// <summary>A vessel. All are made up.</summary>
public sealed record Vessel(string Name, string Kind, double Length, double Draught, string HomePort, Writer Master, bool Large);

/// <summary>The people, vessels and firms around Saltmarrow harbour.</summary>
public static class Cast
{
    private static Writer Skipper(string name, string address, Manner manner, string vessel, bool html = false) => new(name, address, manner, $"{name}\n{vessel}", html);

    public static readonly IReadOnlyList<Vessel> Vessels =
    [
        Yacht("Tern of Wexley", "sloop", 9.8, 1.6, "Wexley", "Maud Ashgrove", "maud.ashgrove@tidepost.example", Manner.Friendly),
        Yacht("Kittiwake IV", "ketch", 13.2, 1.9, "Port Hallam", "Rolf Sandvik", "rolf.sandvik@fjordmail.example", Manner.Formal),
        Yacht("Blue Interval", "catamaran", 12.6, 1.1, "St Brannock", "Priya Raman", "priya@ramanfamily.example", Manner.Friendly, html: true),
        Yacht("Mistral Prochain", "yawl", 11.4, 1.8, "Kerlouan-Neuf", "Étienne Le Goff", "e.legoff@courrier-ouest.example", Manner.Formal),
        Yacht("Zeemeeuw", "lemmeraak", 12.0, 0.9, "Oudesluis", "Hanneke Brouwer", "hanneke.brouwer@waterpost.example", Manner.Friendly),
        Yacht("Lütt Matten", "motor yacht", 10.5, 1.2, "Nordersand", "Jörg Petersen", "j.petersen@nordersand.example", Manner.Terse),
        Yacht("Second Wind", "sloop", 8.4, 1.4, "Millbrook", "Gareth Pugh", "gazpugh@quickline.example", Manner.PhoneTyped),
        Yacht("Halcyon Days", "motor cruiser", 11.9, 1.0, "Lower Staithe", "Brenda Culpepper", "brenda.culpepper@staithe.example", Manner.Hasty),
        Yacht("Aurora Minor", "sloop", 10.1, 1.7, "Vestnes", "Ingrid Solheim", "ingrid.solheim@fjordmail.example", Manner.Friendly),
        Yacht("Pelican Street", "trawler yacht", 14.1, 1.5, "Port Hallam", "Dermot Keane", "dkeane@hallamboats.example", Manner.Terse),
        Yacht("Siódma Fala", "sloop", 9.2, 1.5, "Jastarnik", "Wiesława Górska", "w.gorska@morze.example", Manner.Formal),
        Yacht("Mañana", "cutter", 11.0, 1.9, "Ría Clara", "Íñigo Otxoa", "inigo@riaclara.example", Manner.Friendly),
        Yacht("Ripple", "dayboat", 6.2, 0.7, "Saltmarrow", "Colin Fairweather", "colin.fairweather@tidepost.example", Manner.Hasty),
        Yacht("Old Faithless", "gaffer", 9.5, 1.5, "Wexley", "Tobias Lunt", "toby.lunt@quickline.example", Manner.PhoneTyped),
        Yacht("Nordlys", "motorsailer", 13.8, 1.8, "Bodvik", "Astrid Nygård", "astrid.nygaard@fjordmail.example", Manner.Formal),
        Yacht("Sweet Reason", "sloop", 10.6, 1.8, "St Brannock", "Oyelaran Adeyemi", "oye.adeyemi@harbourside.example", Manner.Friendly, html: true),
        Yacht("Gudrun", "folkboat", 7.7, 1.2, "Nordersand", "Käthe Böhm", "kaethe.boehm@nordersand.example", Manner.Formal),
        Yacht("Three Tuns", "narrowbeam", 15.0, 0.8, "Millbrook", "Sheila and Ron Beddoes", "beddoes@millbrookpost.example", Manner.Hasty),
        Ship("MV Hester Vane", "coaster", 87.4, 5.1, "Port Hallam", "Vane & Daughters Shipping", "ops@vaneshipping.example", "Callum Vane", Manner.Terse),
        Ship("MV Stella Boreal", "coaster", 79.9, 4.8, "Bodvik", "Boreal Short Sea AS", "chartering@borealshortsea.example", "Liv Tangen", Manner.Formal),
        Ship("Grey Heron", "dredger", 58.0, 3.4, "Wexley", "Wexley Dredging", "marine@wexleydredging.example", "Pauline Stride", Manner.Terse),
        Ship("MY Calliope Rex", "superyacht", 43.5, 2.9, "Ría Clara", "Laurier Yacht Agency", "berths@laurieragency.example", "Solène Laurier", Manner.Formal, html: true),
        Ship("MV Oostkapel", "bulk carrier", 89.9, 5.4, "Oudesluis", "Kust & Delta Cargadoors", "agency@kustendelta.example", "Pieter van Rhee", Manner.Formal),
        Ship("Provider II", "fishing vessel", 24.6, 3.2, "Lower Staithe", "Staithe Fishermen's Co-op", "office@staithecoop.example", "Marnie Tull", Manner.Hasty),
        Ship("Sail Trainer Endeavour Lass", "brigantine", 33.0, 2.8, "Port Hallam", "Hallam Sea Cadets Trust", "voyages@hallamtrust.example", "Lt. Fiona Marchbanks", Manner.Formal),
        Ship("Barge Sixpence", "spritsail barge", 26.3, 1.2, "Millbrook", "Sixpence Charters", "hello@sixpencecharters.example", "Jem Okafor", Manner.Friendly),
    ];

    public static readonly IReadOnlyList<Writer> Townspeople =
    [
        new("Edith Prowse", "edith.prowse@millbrookpost.example", Manner.Formal, "Mrs E. Prowse\n4 Ropewalk Cottages"),
        new("Dave Nunn", "davenunn77@quickline.example", Manner.PhoneTyped, "Sent from my phone"),
        new("Dr. Amara Osei", "amara.osei@saltmarrow-surgery.example", Manner.Formal, "Dr. Amara Osei\nSaltmarrow Surgery"),
        new("Lucy Tamblyn", "lucy.tamblyn@tidepost.example", Manner.Friendly, "Lucy x"),
        new("Kenneth Boyle", "k.boyle@quayside-residents.example", Manner.Formal, "Kenneth Boyle\nChair, Quayside Residents' Association"),
        new("Rosa Quintela", "rosa.quintela@anchorbakery.example", Manner.Friendly, "Rosa Quintela\nAnchor Bakery, Fish Street", true),
        new("Maximilian Thorne-Hale", "max@thornehale.example", Manner.Hasty, "M. T-H"),
        new("Yuki Hamada", "yuki.hamada@studiohamada.example", Manner.Friendly, "Yuki Hamada 浜田\nStudio Hamada", true),
        new("Bogdan Ilić", "bogdan.ilic@tidepost.example", Manner.Terse, "B. Ilić"),
        new("Winifred Speke", "winifred.speke@staithe.example", Manner.Formal, "Miss W. Speke"),
        new("Hamza Qureshi", "hamza@qureshicycles.example", Manner.Friendly, "Hamza\nQureshi Cycles"),
        new("Noor El Amrani", "noor.elamrani@lantern-festival.example", Manner.Friendly, "Noor El Amrani\nSaltmarrow Lantern Festival", true),
        new("Ted Bickerstaff", "ted@bickerstaff-brass.example", Manner.Hasty, "Ted B, Saltmarrow Town Band"),
        new("Chloé Marchand", "chloe@regatta-week.example", Manner.Formal, "Chloé Marchand\nRegatta Week Committee"),
    ];

    public static readonly IReadOnlyList<Writer> Suppliers =
    [
        new("Harker Marine Fuels", "accounts@harkerfuels.example", Manner.Formal, "Accounts receivable\nHarker Marine Fuels"),
        new("Tidewater Rope & Chandlery", "invoices@tidewater-chandlery.example", Manner.Formal, "Tidewater Rope & Chandlery", true),
        new("Brightwell Electrical", "jobs@brightwell-electrical.example", Manner.Friendly, "Steph at Brightwell Electrical"),
        new("Northmoor Water", "billing@northmoorwater.example", Manner.Formal, "Business billing\nNorthmoor Water"),
        new("Clegg's Crane Hire & Lifting", "office@cleggscranes.example", Manner.Hasty, "Denise, Clegg's"),
        new("Pollock & Wray Surveyors", "fees@pollockwray.example", Manner.Formal, "Pollock & Wray LLP"),
        new("Saltmarrow Skip & Waste", "hello@saltmarrowskips.example", Manner.PhoneTyped, "Jimmo"),
    ];

    private static Vessel Yacht(string name, string kind, double length, double draught, string port, string skipper, string address, Manner manner, bool html = false) =>
        new(name, kind, length, draught, port, Skipper(skipper, address, manner, $"{kind} {name}, {port}", html), false);

    private static Vessel Ship(string name, string kind, double length, double draught, string port, string firm, string address, string person, Manner manner, bool html = false) =>
        new(name, kind, length, draught, port, new Writer(person, address, manner, $"{person}\n{firm}", html), true);
}
