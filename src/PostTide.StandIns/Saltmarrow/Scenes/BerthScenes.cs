namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Requests for berths, from dayboats to coasters.</summary>
internal static class BerthScenes
{
    public static Draft Request(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels.Where(v => !v.Large).ToList());
        var arrive = at.AddDays(dice.Between(1, 21));
        var nights = dice.Between(1, 9);
        var core = dice.Pick(
            $"Do you have room for us from {Office.Day(arrive)} for {Nights(nights)}? {vessel.Name} is a {vessel.Length} m {vessel.Kind} drawing {vessel.Draught} m.",
            $"I would like to book a visitor berth for {Nights(nights)}, arriving {Office.Day(arrive)}. Vessel: {vessel.Name}, {vessel.Kind}, length {vessel.Length} m, draught {vessel.Draught} m, home port {vessel.HomePort}.",
            $"We are on passage from {vessel.HomePort} and hope to reach you on {Office.Day(arrive)}. Is there a berth for a {vessel.Length} metre {vessel.Kind}? We would stay {Nights(nights)}, perhaps one more if the forecast stays as it is.",
            $"Looking for a mooring {Office.Day(arrive)}, {Nights(nights)}. {vessel.Name}, {vessel.Length}m, {vessel.Draught}m draught. Alongside if you have it, buoy is fine too.",
            $"A friend on the east pontoon said to write to you about berthing. We are two adults and a patient dog on {vessel.Name} ({vessel.Kind}, {vessel.Length} m) and would come in on the evening tide of {Office.Day(arrive)}, leaving after {Nights(nights)}.",
            $"Could you put {vessel.Name} down for the visitors' pontoon please, {Office.Day(arrive)} for {Nights(nights)}? Same as last summer, {vessel.Length} m overall and we float in {vessel.Draught} m.");
        var extras = dice.Some(0.28,
            "Is there shore power on the berths, and does it take the blue plug or the old round one?",
            "We have a bow thruster that has opinions, so a berth that does not need backing into would be a kindness.",
            "Could you tell me the charge per night and whether the showers are included?",
            "We need to be able to leave at any state of the tide on the last day.",
            "One of our crew uses a wheelchair. Is the ramp to the pontoons very steep at low water?",
            "We will have a 2.4 m tender on davits, so please reckon with that at the stern.",
            "Would a finger berth near the slip be possible? We want to have the engineer look at the stern gland.",
            "If you are full, is anchoring behind the mole allowed?",
            "Insurance certificate attached, as asked for last time.");
        var files = dice.Chance(0.12) ? new[] { Files.Pdf($"insurance {vessel.Name}.pdf", "Certificate of insurance", vessel.Name, $"Valid until {at.AddMonths(7):yyyy-MM-dd}") } : [];
        var subject = dice.Pick($"Berth for {vessel.Name}", "Visitor berth", $"Berth request {Office.Day(arrive)}", "room for a small boat?", $"{vessel.Name}: berth please", "Mooring for a few nights", "Booking a berth");
        var draft = new Draft(vessel.Master, dice.Weighted([(Office.Berths, 0.7), (Office.Harbour, 0.25), ("berths+web@saltmarrow.example", 0.05)]), subject, [core, .. extras]) { Files = files };
        return dice.Chance(0.22) ? draft with { Later = (dice.Between(3, 40), FollowUp(dice, at, vessel, subject)) } : draft;
    }

    public static Draft LargeVessel(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels.Where(v => v.Large).ToList());
        var eta = at.AddDays(dice.Between(2, 18));
        var core = dice.Pick(
            $"We act as agents for {vessel.Name} ({vessel.Kind}, LOA {vessel.Length} m, draught {vessel.Draught} m) and ask for a berth at the commercial quay, ETA {Office.Day(eta)} {Office.Clock(dice)} local.",
            $"Pls advise berth availability for {vessel.Name}, LOA {vessel.Length} / draft {vessel.Draught}, ETA {eta:dd/MM} {Office.Clock(dice)}, abt {dice.Between(12, 40)} hours alongside.",
            $"{vessel.Name}, {vessel.Length} metres over all, would like to lie at the stone quay from {Office.Day(eta)} for {Nights(dice.Between(2, 6))}. Gross tonnage {dice.Between(90, 2900)}. Please confirm the depth at low water springs.",
            $"Request for a large berth: {vessel.Name} of {vessel.HomePort}, {vessel.Kind}, LOA {vessel.Length} m. Expected at the fairway buoy {Office.Day(eta)} at about {Office.Clock(dice)}.");
        var extras = dice.Some(0.35,
            "A pilot is required. Please confirm boarding time and ground.",
            "Will tug assistance be available should the wind stay in the north-east?",
            "Kindly let us have a proforma of the dues before arrival.",
            "Fresh water about 12 cubic metres and garbage collection for two skips, please.",
            "Crew list and last ten ports of call are attached.",
            "The master asks that the fenders at the eastern end be looked at; last call they were found split.",
            "Security: the vessel is at level 1 and has nothing to declare.");
        var files = dice.Chance(0.5)
            ? new[] { Files.Pdf($"ship particulars {vessel.Name}.pdf", "Ship's particulars", vessel.Name, $"LOA {vessel.Length} m", $"Draught {vessel.Draught} m"), Files.Csv($"crew list {at:yyyy-MM}.csv", "rank,name", "master,A. Example", "mate,B. Example") }
            : [];
        var draft = new Draft(vessel.Master, dice.Weighted([(Office.Berths, 0.75), (Office.Harbour, 0.25)]), dice.Pick($"{vessel.Name} - berth application", $"ETA {vessel.Name} {eta:dd MMM}", $"Large berth request: {vessel.Name}", $"Call of {vessel.Name}"), [core, .. extras]) { Files = files };
        return dice.Chance(0.3) ? draft with { Later = (dice.Between(4, 30), FollowUp(dice, at, vessel, draft.Subject)) } : draft;
    }

    public static Draft Cancellation(Dice dice, DateTimeOffset at)
    {
        var vessel = dice.Pick(Cast.Vessels);
        var core = dice.Pick(
            $"Sadly we have to cancel our berth for {Office.Day(at.AddDays(dice.Between(1, 6)))}. The gearbox of {vessel.Name} has given up and we are not going anywhere this month.",
            $"Please cancel the booking for {vessel.Name}. The forecast has made up our minds for us.",
            $"{vessel.Name} will not be calling after all, charterers have fixed elsewhere. Please release the berth and confirm that no dues fall to our account.",
            $"Could you cancel our reservation ({vessel.Name}) and tell me whether the deposit can be kept for September instead?");
        return new Draft(vessel.Master, Office.Berths, dice.Pick($"Cancel {vessel.Name}", "Cancellation of berth", "we can't make it", $"{vessel.Name}: booking withdrawn"), [core]);
    }

    private static Draft FollowUp(Dice dice, DateTimeOffset at, Vessel vessel, string subject) => new(vessel.Master, Office.Berths, $"Re: {subject}",
    [
        dice.Pick(
            "That works for us, please confirm the berth number when you have it.",
            "Thank you for the quick answer. One more thing: is there a chandler open on Sunday?",
            "We would take the buoy if nothing else is free. What is the holding like there?",
            "Understood. We will call on VHF an hour before.",
            "Sorry to be a nuisance, has this gone through? I have not heard anything since the first note.",
            "Noted with thanks. Agent's boarding clerk will be at the quay."),
    ])
    {
        Quoted = Office.Quote(at.AddHours(1), dice.Pick(
            "Thank you for your request. We have put it on the list and will confirm\nthe berth the day before you arrive.\n\nSaltmarrow Harbour Office",
            "Thank you for writing. Your request has reached the berthing desk.\nBerths are given out in the order of arrival of requests.\n\nSaltmarrow Harbour Office")),
    };

    private static string Nights(int nights) => nights == 1 ? "one night" : nights == 2 ? "two nights" : $"{nights} nights";
}
