using System.Text;

namespace PostTide.StandIns.Saltmarrow;

/// <summary>Gives a draft its writer's voice: greeting, sign-off, and the slips of people in a hurry.</summary>
public static class Voice
{
    private static readonly (string Right, string Slip)[] Slips =
    [
        ("the ", "teh "), ("please", "plesae"), ("berth", "birth"), ("arrive", "arive"), ("and ", "adn "), ("would", "woudl"), ("their", "thier"),
        ("tomorrow", "tommorow"), ("receive", "recieve"), ("definitely", "definately"), ("harbour", "habour"), ("because", "becuase"), ("invoice", "invioce"),
        ("diesel", "deisel"), ("weather", "wether"), ("possible", "posible"),
    ];

    public static string Greet(Draft draft, Dice dice) => draft.From.Manner switch
    {
        Manner.Formal => dice.Pick("Dear Sir or Madam,", "Dear Harbour Office,", "Good morning,", "To the Harbour Master,"),
        Manner.Friendly => dice.Pick("Hello,", "Hi there,", "Good morning all,", "Hello harbour team,", "Ahoy,"),
        Manner.Terse => dice.Pick("", "Harbour office,", "All,", "Morning,"),
        Manner.Hasty => dice.Pick("Hi,", "hello", "Hi all", ""),
        _ => dice.Pick("hi", "hiya", "", "morning"),
    };

    public static string Close(Draft draft, Dice dice) => draft.From.Manner switch
    {
        Manner.Formal => dice.Pick("Yours faithfully,", "With kind regards,", "Yours sincerely,", "Respectfully,"),
        Manner.Friendly => dice.Pick("All the best,", "Many thanks,", "Fair winds,", "Best wishes,", "Thanks so much,"),
        Manner.Terse => dice.Pick("Rgds", "Thanks", "Regards,"),
        Manner.Hasty => dice.Pick("thanks", "cheers", "Thanks in advance!", "ta"),
        _ => dice.Pick("cheers", "thx", "ta", ""),
    };

    /// <summary>The new text of the message, paragraph by paragraph.</summary>
    public static string Write(Draft draft, Dice dice)
    {
        if (draft.Machine)
        {
            return string.Join("\n\n", draft.Paragraphs);
        }

        var parts = new List<string> { Greet(draft, dice) };
        parts.AddRange(draft.Paragraphs.Select(p => Slip(p, draft.From.Manner, dice)));
        parts.Add(Close(draft, dice));
        return string.Join("\n\n", parts.Where(p => p.Length > 0));
    }

    private static string Slip(string text, Manner manner, Dice dice)
    {
        var careless = manner is Manner.Hasty or Manner.PhoneTyped;
        if (manner == Manner.PhoneTyped && dice.Chance(0.6))
        {
            text = text.ToLowerInvariant();
        }

        if (!dice.Chance(careless ? 0.55 : 0.06))
        {
            return text;
        }

        var (right, slip) = dice.Pick(Slips);
        var at = text.IndexOf(right, StringComparison.Ordinal);
        return at < 0 ? text : new StringBuilder(text).Remove(at, right.Length).Insert(at, slip).ToString();
    }
}
