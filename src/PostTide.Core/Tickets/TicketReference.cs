using System.Collections.Immutable;
using System.Globalization;
using PostTide.Core.Matching;
using PostTide.Core.Messages;

namespace PostTide.Core.Tickets;

/// <summary>Ticket references such as <c>SH-1042</c>: making them, and finding them in mail.</summary>
public static class TicketReference
{
    private const int MostDigits = 12;

    public static string Format(string prefix, long number) => $"{prefix}-{number.ToString(CultureInfo.InvariantCulture)}";

    /// <summary>The references a message names, in its subject first, then in the new part of its body.</summary>
    public static ImmutableArray<Evidence> FindIn(PreparedMessage message, string prefix)
    {
        var found = ImmutableArray.CreateBuilder<Evidence>();
        Search(message.Subject, 0, message.Subject.Length, EvidencePlace.Subject);
        foreach (var stretch in message.Body.NewStretches)
        {
            Search(message.Body.Text, stretch.Start, stretch.Length, EvidencePlace.Body);
        }

        return found.ToImmutable();

        void Search(string text, int start, int length, EvidencePlace place)
        {
            var mark = prefix + "-";
            var end = start + length;
            for (var at = text.IndexOf(mark, start, length, StringComparison.OrdinalIgnoreCase); at >= 0;)
            {
                var digits = at + mark.Length;
                var to = digits;
                while (to < end && char.IsAsciiDigit(text[to]))
                {
                    to++;
                }

                var begins = at == start || !char.IsLetterOrDigit(text[at - 1]);
                var ends = to == end || !char.IsLetterOrDigit(text[to]);
                if (begins && ends && to > digits && to - digits <= MostDigits)
                {
                    found.Add(Evidence.In(place, text, at, to - at));
                }

                at = to < end ? text.IndexOf(mark, to, end - to, StringComparison.OrdinalIgnoreCase) : -1;
            }
        }
    }
}
