"""Words that say nothing by themselves, for whoever compares, searches or weighs what texts say."""

_LINKS = frozenset("a an the of in on at and or with for to by".split())

IN_SEARCH = _LINKS  # of what is searched for
IN_PARTS = _LINKS | frozenset("from its his her their is are".split())  # of two parts that are laid side by side
IN_NAMES = IN_PARTS | frozenset("this that".split())  # of the names of terms
IN_WEIGHING = IN_NAMES | frozenset("as into under over".split())  # of a part that is weighed
# Of what a text states, in words of three letters and more.
IN_STATEMENTS = frozenset(
    """the and for off out one two its not but with from into over under against behind along across through that this
    their very has are was were who his her than then about above below beside""".split()
)
