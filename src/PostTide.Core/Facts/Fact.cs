using System.Collections.Immutable;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Facts;

/// <summary>A value read out of a message.</summary>
/// <param name="Name">The name templates use, such as <c>sender_name</c>.</param>
/// <param name="Value">The value, or null when it was not found.</param>
/// <param name="Evidence">Where it stands.</param>
public sealed record Fact(string Name, string? Value, Evidence? Evidence);

/// <summary>The facts every sheet can read out without being taught.</summary>
public static class BuiltInFacts
{
    public const string SenderName = "sender_name";
    public const string SenderAddress = "sender_address";
    public const string Subject = "subject";
    public const string FirstAddress = "first_address";
    public const string Date = "date";

    /// <summary>Every name, in the order the sheet offers them.</summary>
    public static readonly ImmutableArray<string> Names = [SenderName, SenderAddress, Subject, FirstAddress, Date];

    /// <summary>Reads one fact; an unknown name gives a fact that was not found.</summary>
    public static Fact Read(string name, PreparedMessage message) => name switch
    {
        SenderName => Found(name, message.From.Name, EvidencePlace.Sender, message.From.Shown, 0),
        SenderAddress => Found(name, message.From.Address, EvidencePlace.Sender, message.From.Shown, message.From.Name.Length == 0 ? 0 : message.From.Name.Length + 2),
        Subject => Found(name, message.Subject, EvidencePlace.Subject, message.Subject, 0),
        FirstAddress => ReadFirstAddress(message),
        Date => new Fact(name, (message.SentAt ?? message.ArrivedAt).ToString("O"), null),
        _ => new Fact(name, null, null),
    };

    private static Fact Found(string name, string value, EvidencePlace place, string text, int start) => value.Length == 0
        ? new Fact(name, null, null)
        : new Fact(name, value, Evidence.In(place, text, start, value.Length));

    private static Fact ReadFirstAddress(PreparedMessage message)
    {
        foreach (var stretch in message.Body.NewStretches)
        {
            foreach (var span in AddressesInText.In(message.Body.Text, stretch.Start, stretch.Length))
            {
                return Found(FirstAddress, message.Body.Text.Substring(span.Start, span.Length), EvidencePlace.Body, message.Body.Text, span.Start);
            }
        }

        return new Fact(FirstAddress, null, null);
    }
}
