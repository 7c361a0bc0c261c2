namespace PostTide.StandIns.Saltmarrow.Scenes;

/// <summary>Invoices, reminders and statements of suppliers.</summary>
internal static class InvoiceScenes
{
    public static Draft Invoice(Dice dice, DateTimeOffset at)
    {
        var supplier = dice.Pick(Cast.Suppliers);
        var number = dice.Code("A-99999");
        var amount = $"{dice.Between(40, 9000)}.{dice.Between(0, 99):00}";
        var (subject, core) = dice.Weighted<(string, string)>(
        [
            (($"Invoice {number}", $"Please find attached our invoice {number} over {amount} for {Goods(dice)}. Payment within 30 days."), 5),
            (($"{supplier.Name}: invoice {number}", $"Invoice {number} for {Goods(dice)} is attached. Total {amount}. Thank you for your order."), 4),
            (($"Reminder: invoice {number}", $"Our records show invoice {number} of {Office.Day(at.AddDays(-38))} ({amount}) as open. If you have paid in the meantime please take no notice of this letter."), 1.5),
            (($"Credit note {number}", $"Attached is a credit note over {amount} for the returned {Goods(dice)}."), 0.8),
            (("Statement of account", $"Your statement for {at.AddMonths(-1):MMMM yyyy} is attached. Balance {amount}."), 1.2),
        ]);
        return new Draft(supplier, dice.Weighted([(Office.Accounts, 0.85), (Office.Harbour, 0.15)]), subject,
            [core, .. dice.Some(0.2, "Our bank details have not changed. If somebody tells you otherwise, ring us on the number you know.", "Order number on your side: " + dice.Code("SH/9999"), "Delivery note to follow by post.")])
        {
            Files = [Files.Pdf(dice.Pick($"{number}.pdf", $"invoice_{number}.pdf", $"INV {number} Saltmarrow.pdf"), supplier.Name, number, $"Total {amount}")],
        };
    }

    private static string Goods(Dice dice) => dice.Pick(
        "marine diesel, delivery of the 3rd", "mooring rope 24 mm, 220 m", "inspection of the switchboard in the pump house", "water charges, meter 2", "hire of a 35 t mobile crane, one day",
        "survey of the eastern mole", "two skips, mixed waste", "fender tyres, 14 pieces", "LED lamps for the pontoon lights");
}
