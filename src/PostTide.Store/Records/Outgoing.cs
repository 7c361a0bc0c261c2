using PostTide.Core.Matching;

namespace PostTide.Store.Records;

/// <summary>What a reply deed sends. Its state is the deed's.</summary>
public sealed class Reply
{
    public long Id { get; set; }
    public long DeedId { get; set; }
    public Deed Deed { get; set; } = null!;
    public long MessageId { get; set; }
    public required string From { get; set; }
    public required string To { get; set; }
    public required string Subject { get; set; }
    public required string Body { get; set; }

    /// <summary>The fixed Message-ID, without angle brackets: every try sends the same one.</summary>
    public required string MailId { get; set; }
    public string? InReplyTo { get; set; }
    public string[] References { get; set; } = [];
    public string TemplateName { get; set; } = "";

    /// <summary>Whether it was written without a person; such a reply says so in its header (RFC 3834).</summary>
    public bool Automatic { get; set; }
    public string? AttachmentName { get; set; }
    public string? AttachmentSha256 { get; set; }

    /// <summary>A try ended without an answer from the mail host, so the recipient may see it twice under one Message-ID.</summary>
    public bool Uncertain { get; set; }
    public string? CheckedBy { get; set; }
}

/// <summary>A file saved from a message. The bytes lie in the file store under their SHA-256.</summary>
public sealed class FiledFile
{
    public long Id { get; set; }

    /// <summary>The folder as a path of safe segments joined by <c>/</c>.</summary>
    public required string Folder { get; set; }
    public required string Name { get; set; }
    public required string Sha256 { get; set; }
    public long Size { get; set; }

    /// <summary>The type the sender declared; never used to serve the file.</summary>
    public string DeclaredType { get; set; } = "";
    public long MessageId { get; set; }
    public long? DeedId { get; set; }
    public DateTimeOffset FiledAt { get; set; }
}

/// <summary>A template of replies.</summary>
public sealed class Template
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public required string Body { get; set; }
    public string? AttachmentName { get; set; }
    public string? AttachmentSha256 { get; set; }
}

/// <summary>A shared keyword list.</summary>
public sealed class KeywordListRecord
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public string Description { get; set; } = "";
    public string[] Words { get; set; } = [];

    /// <summary>How the words are compared; see <see cref="Core.Matching.KeywordOptions"/>.</summary>
    public bool WholeWords { get; set; } = true;
    public bool SameCase { get; set; }
    public bool SameAccents { get; set; } = true;
    public bool Endings { get; set; }

    /// <summary>Grows with each change, so that prepared lists can be kept in memory.</summary>
    public int Revision { get; set; }
}

/// <summary>Conditions under a name, for use on several sheets.</summary>
public sealed class SavedConditionRecord
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public string Description { get; set; } = "";
    public required ConditionSet Set { get; set; }
}

/// <summary>Another application that facts are passed on to. Only addresses entered here are ever called.</summary>
public sealed class Destination
{
    public long Id { get; set; }
    public required string Name { get; set; }
    public required string Url { get; set; }
}
