using System.Collections.Immutable;
using PostTide.Core.Messages;
using PostTide.Core.Sorting;
using PostTide.Core.Text;
using PostTide.Mail;

namespace PostTide.Cli.Sorters;

/// <summary>Examples read from a folder whose sub-folders are categories; the one called <c>none-of-these</c> stands for none of them.</summary>
internal sealed record ExampleFolder(ImmutableArray<string> Categories, ImmutableArray<SorterExample> Examples, int Unreadable)
{
    private const string None = "none-of-these";

    /// <summary>Reads every mail file below the sub-folders; what cannot be read is told and left out.</summary>
    public static async Task<ExampleFolder> ReadAsync(string folder, TextWriter errors)
    {
        var names = Directory.GetDirectories(folder).Select(Path.GetFileName).OfType<string>().Where(n => n[0] != '.').Order(StringComparer.Ordinal).ToArray();
        var examples = ImmutableArray.CreateBuilder<SorterExample>();
        var unreadable = 0;
        foreach (var name in names)
        {
            foreach (var mail in MailFiles.Read(Path.Combine(folder, name)))
            {
                try
                {
                    var message = Prepare(mail, examples.Count + 1);
                    examples.Add(new SorterExample(message.Id, name == None ? null : name, message));
                }
                catch (UnreadableMailException e)
                {
                    unreadable++;
                    await errors.WriteLineAsync($"{mail.Name}: {e.Message}");
                }
            }
        }

        return new ExampleFolder([.. names.Where(n => n != None)], examples.ToImmutable(), unreadable);
    }

    /// <summary>Makes one message ready, its words cut as they are for stored mail.</summary>
    /// <exception cref="UnreadableMailException">It cannot be read.</exception>
    public static PreparedMessage Prepare(MailInFile mail, long id)
    {
        var raw = mail.Bytes ?? throw new UnreadableMailException(mail.Problem ?? "");
        var parsed = MailReader.Read(raw);
        var message = Preparation.Prepare(parsed, Envelope.Unknown, parsed.SentAt ?? DateTimeOffset.UnixEpoch) with { Id = id };
        message.Body.Searched.WordsIn(0, message.Body.Text.Length);
        return message;
    }

    /// <summary>The categories as a sorter has them, called by their folders.</summary>
    public SorterSettings Settings() => new() { Categories = [.. Categories.Select(c => new SorterCategory { Id = c, Name = c })] };

    /// <summary>Draws some examples of every category by a seed, and gives the rest as well.</summary>
    public (ImmutableArray<SorterExample> Drawn, ImmutableArray<SorterExample> Others) Draw(int each, int seed)
    {
        var drawn = Examples.GroupBy(e => e.CategoryId ?? None).OrderBy(g => g.Key, StringComparer.Ordinal).SelectMany(group =>
        {
            var shuffled = group.ToArray();
            new Random(seed).Shuffle(shuffled);
            return shuffled.Take(each);
        }).ToImmutableArray();
        var ids = drawn.Select(d => d.Id).ToHashSet();
        return (drawn, [.. Examples.Where(e => !ids.Contains(e.Id))]);
    }
}
