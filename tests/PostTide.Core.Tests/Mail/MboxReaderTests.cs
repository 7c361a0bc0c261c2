using System.Text;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>RFC 4155, appendix A: the separator line, the empty line at the end, and the guarded “From ”.</summary>
public sealed class MboxReaderTests
{
    private static string[] Read(string mbox) =>
        [.. MboxReader.Read(new MemoryStream(Encoding.ASCII.GetBytes(mbox)), 1_000_000).Select(m => Encoding.ASCII.GetString(m.Bytes!))];

    [Fact]
    public void Cuts_messages_at_their_separators() =>
        Read("From a@b.example Thu Nov 26 10:00:00 2026\nFrom: a@b.example\nSubject: one\n\nfirst\n\nFrom c@d.example Thu Nov 26 11:00:00 2026\nFrom: c@d.example\nSubject: two\n\nsecond\n\n")
            .ShouldBe(["From: a@b.example\nSubject: one\n\nfirst\n", "From: c@d.example\nSubject: two\n\nsecond\n"]);

    [Fact]
    public void A_guarded_line_gets_back_what_it_was() =>
        Read("From a@b.example Thu Nov 26 10:00:00 2026\nFrom: a@b.example\n\n>From here on\n\n").ShouldBe(["From: a@b.example\n\nFrom here on\n"]);

    [Fact]
    public void A_message_that_looks_like_none_costs_no_other() =>
        Read("From a@b.example Thu Nov 26 10:00:00 2026\nnot mail at all\n\nFrom c@d.example Thu Nov 26 11:00:00 2026\nFrom: c@d.example\n\nok\n\n")
            .ShouldBe(["not mail at all\n", "From: c@d.example\n\nok\n"]);

    [Fact]
    public void A_message_beyond_the_limit_is_named_and_the_next_one_read()
    {
        var mbox = $"From a@b.example Thu Nov 26 10:00:00 2026\nFrom: a@b.example\n\n{new string('x', 5_000)}\n\nFrom c@d.example Thu Nov 26 11:00:00 2026\nFrom: c@d.example\n\nok\n\n";
        var messages = MboxReader.Read(new MemoryStream(Encoding.ASCII.GetBytes(mbox)), 1_000).ToList();
        messages.Select(m => m.Problem is null).ShouldBe([false, true]);
    }

    [Fact]
    public void Other_files_do_not_look_like_mbox() => MboxReader.IsMbox("From: a@b.example"u8).ShouldBeFalse();
}
