using System.Collections.Immutable;
using PostTide.Core.Facts;
using PostTide.Core.Messages;
using PostTide.Core.Text;

namespace PostTide.Core.Matching;

/// <summary>A stretch of one of a message's texts that a condition is decided on.</summary>
/// <param name="Place">Which text it lies in.</param>
/// <param name="Text">The whole of that text.</param>
/// <param name="Start">Where the stretch begins.</param>
/// <param name="Length">How long it is.</param>
/// <param name="Index">Which of several texts of the kind.</param>
/// <param name="Parts">Stretches that count as wholes besides the stretch itself: an address's own parts.</param>
/// <param name="Searched">The text with its words, where they are kept; they are cut when they are needed otherwise.</param>
internal readonly record struct TextField(
    EvidencePlace Place, string Text, int Start, int Length, int Index = 0, ImmutableArray<(int Start, int Length)> Parts = default, SearchedText? Searched = null)
{
    private const string ListIdField = "List-Id";

    public SearchedText WithWords => Searched ?? new SearchedText(Text);

    public ReadOnlySpan<char> Span => Text.AsSpan(Start, Length);

    public Evidence At(int start, int length) => Evidence.In(Place, Text, start, length, Index);

    /// <summary>The texts a condition looks at.</summary>
    public static TextField[] Of(Condition condition, PreparedMessage message) => condition.Part switch
    {
        MessagePart.Sender => [OfAddress(EvidencePlace.Sender, message.From, 0)],
        MessagePart.SenderAddress => [OfAddress(EvidencePlace.Sender, message.From, 0).Address(message.From)],
        MessagePart.SenderDomain => [OfAddress(EvidencePlace.Sender, message.From, 0).Domain(message.From)],
        MessagePart.SenderName => [Whole(EvidencePlace.Sender, message.From.Shown) with { Length = message.From.Name.Length }],
        MessagePart.Recipient => [.. message.Recipients().Select((a, i) => OfAddress(EvidencePlace.Recipient, a, i))],
        MessagePart.OriginallyTo => [.. WrittenTo(message).Select(r => OfAddress(EvidencePlace.Recipient, r.Address, r.Index))],
        MessagePart.Tag => [.. WrittenTo(message).Select(r => OfAddress(EvidencePlace.Recipient, r.Address, r.Index).Detail(r.Address)).OfType<TextField>()],
        MessagePart.Subject => [OfSubject(message)],
        MessagePart.BaseSubject => [OfBaseSubject(message)],
        MessagePart.Body => OfBody(null, message.Body, condition.WholeBody),
        MessagePart.SubjectOrBody => OfBody(OfSubject(message), message.Body, condition.WholeBody),
        MessagePart.Header => [.. OfHeader(message, condition.Name)],
        MessagePart.ListId => [.. OfHeader(message, ListIdField)],
        MessagePart.WordAtPlace => AtPlace(message.Body, condition),
        MessagePart.AttachmentName => [.. message.Attachments.Select(a => Whole(EvidencePlace.Attachment, a.Name, a.Index))],
        MessagePart.Fact => OfFact(message, condition.Name),
        _ => [],
    };

    private static TextField Whole(EvidencePlace place, string text, int index = 0) => new(place, text, 0, text.Length, index);

    /// <summary>An address counts whole as shown, by its address alone and by its display name alone.</summary>
    private static TextField OfAddress(EvidencePlace place, EmailAddress address, int index)
    {
        var shown = address.Shown;
        return address.Name.Length == 0
            ? new TextField(place, shown, 0, shown.Length, index)
            : new TextField(place, shown, 0, shown.Length, index, [(address.Name.Length + 2, address.Address.Length), (0, address.Name.Length)]);
    }

    private TextField Address(EmailAddress address) =>
        this with { Start = address.Name.Length == 0 ? 0 : address.Name.Length + 2, Length = address.Address.Length, Parts = default };

    private TextField Domain(EmailAddress address)
    {
        var whole = Address(address);
        var at = address.Address.LastIndexOf('@') + 1;
        return at == 0 ? whole with { Length = 0 } : whole with { Start = whole.Start + at, Length = address.Address.Length - at };
    }

    private TextField? Detail(EmailAddress address)
    {
        var whole = Address(address);
        return SubAddress.Split(address.Address) is { Detail: { } detail } split
            ? whole with { Start = whole.Start + split.User.Length + 1, Length = detail.Length }
            : null;
    }

    /// <summary>The addresses the mail was originally written to, as they stand among the recipients.</summary>
    private static IEnumerable<(EmailAddress Address, int Index)> WrittenTo(PreparedMessage message)
    {
        var all = message.Recipients().Select((address, index) => (address, index));
        return message.OriginallyTo.IsEmpty
            ? all
            : all.Where(r => message.OriginallyTo.Contains(r.address.Address, StringComparer.OrdinalIgnoreCase));
    }

    /// <summary>The base subject where it stands in the subject; where white space was folded out of it, the whole subject.</summary>
    private static TextField OfBaseSubject(PreparedMessage message)
    {
        var subject = OfSubject(message);
        var bare = BaseSubject.Of(message.Subject);
        var at = message.Subject.IndexOf(bare, StringComparison.Ordinal);
        return at >= 0 ? subject with { Start = at, Length = bare.Length } : subject;
    }

    private static TextField OfSubject(PreparedMessage message) => Whole(EvidencePlace.Subject, message.Subject) with { Searched = message.SearchedSubject };

    private static TextField[] OfBody(TextField? first, BodyText body, bool whole)
    {
        var stretches = body.NewStretches;
        var fields = new TextField[(first is null ? 0 : 1) + (whole ? 1 : stretches.Count)];
        var at = 0;
        if (first is { } subject)
        {
            fields[at++] = subject;
        }

        if (whole)
        {
            fields[at] = InBody(body, 0, body.Text.Length);
            return fields;
        }

        foreach (var stretch in stretches)
        {
            fields[at++] = InBody(body, stretch.Start, stretch.Length);
        }

        return fields;
    }

    private static TextField InBody(BodyText body, int start, int length) => new(EvidencePlace.Body, body.Text, start, length, Searched: body.Searched);

    private static IEnumerable<TextField> OfHeader(PreparedMessage message, string? name)
    {
        for (var i = 0; i < message.Header.Length; i++)
        {
            if (string.Equals(message.Header[i].Name, name, StringComparison.OrdinalIgnoreCase))
            {
                yield return Whole(EvidencePlace.Header, message.Header[i].Value, i);
            }
        }
    }

    private static TextField[] AtPlace(BodyText body, Condition condition) =>
        condition.Place is { } place && WordAtPlace.Find(body, place, condition.WholeBody) is { } span
            ? [InBody(body, span.Start, span.Length)]
            : [];

    /// <summary>A fact is looked at where it stands, so that evidence lies in the message.</summary>
    private static TextField[] OfFact(PreparedMessage message, string? name) =>
        BuiltInFacts.Read(name ?? "", message).Evidence is { } evidence
            ? [new TextField(evidence.Place, message.TextAt(evidence.Place, evidence.Index), evidence.Start, evidence.Length, evidence.Index)]
            : [];
}
